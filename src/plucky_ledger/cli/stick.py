"""The command that writes the recorder onto a stick."""

from pathlib import Path

import click

from plucky_ledger.cli.common import told_plainly
from plucky_ledger.cli.output import tell


@click.command()
@click.argument("folder", type=click.Path(path_type=Path, file_okay=False))
def stick(folder: Path) -> None:
    """Write the recorder into FOLDER, as one file for PCs without Plucky Ledger."""
    from plucky_ledger.usecases.recording.stick import prepare_stick
    from plucky_ledger.wording.stick import guide, words_of_the_stick, written

    with told_plainly():
        tell(written(prepare_stick(folder, words_of_the_stick, guide)))
