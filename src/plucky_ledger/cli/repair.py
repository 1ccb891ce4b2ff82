"""The command that saves what can be read of a damaged ledger."""

from pathlib import Path

import click

from plucky_ledger.cli.common import ledger_address, told_plainly
from plucky_ledger.cli.output import tell
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.wording.language import say_n


@click.command("repair")
@click.argument("ledger")
@click.argument("copy", type=click.Path(path_type=Path))
def repair_ledger(ledger: str, copy: Path) -> None:
    """Save what can be read of a damaged LEDGER as COPY, a new file. LEDGER is left as it is."""
    from plucky_ledger.usecases.jobs.opening import repair

    with told_plainly():
        damaged = ledger_address(ledger).file
        if damaged is None:
            raise Refused(TroubleCode.LEDGER_ONLY_A_FILE, path=ledger)
        rows = repair(damaged, copy)
    tell(
        say_n(
            "What can be read is in {path}; {n} damaged row is lost.",
            "What can be read is in {path}; {n} damaged rows are lost.",
            rows,
            path=str(copy),
        )
    )
