"""The command that writes the recorder onto a stick."""

from pathlib import Path

import click

from plucky_ledger.cli.common import told_plainly
from plucky_ledger.cli.output import tell
from plucky_ledger.wording.figures import number
from plucky_ledger.wording.language import say


@click.command()
@click.argument("folder", type=click.Path(path_type=Path, file_okay=False))
def stick(folder: Path) -> None:
    """Write the recorder into FOLDER, as one file for PCs without Plucky Ledger."""
    from plucky_ledger.usecases.recording.stick import prepare_stick
    from plucky_ledger.wording.stick import guide, words_of_the_stick

    with told_plainly():
        file = prepare_stick(folder, words_of_the_stick, guide)
        kilobytes = number(file.stat().st_size / 1000)
        tell(
            say(
                "{file} is written ({size} kB). At the PC, with the stick in it: sh {name}",
                file=str(file),
                size=kilobytes,
                name=file.name,
            )
        )
