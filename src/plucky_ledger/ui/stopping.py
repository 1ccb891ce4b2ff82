"""Stop now, from the window: a trial that is watched for some seconds and kept nowhere."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from plucky_ledger.core.boots.attribution import OwnerKind
from plucky_ledger.core.pc.stopping import Stopped
from plucky_ledger.ui.desk import Desk
from plucky_ledger.usecases.changing.stop_now import stop_now
from plucky_ledger.wording.language import say
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.switching import stopped_in_words

if TYPE_CHECKING:
    from plucky_ledger.pages.load import LoadRow


def stop_row(desk: Desk, row: "LoadRow", over: Callable[[], None]) -> None:
    """End what a row of the load stands for, and say what came of it; ``over`` is called then."""
    job, ledger = desk.job, desk.ledger
    if job is None:
        return
    number = job.number
    entry = row.entry if row.kind is OwnerKind.ENTRY and not row.program else None
    desk.door.say(say("Stopping {name} and watching what follows…", name=shown(row.name)))

    def done(stopped: Stopped) -> None:
        desk.door.say(stopped_in_words(stopped))
        over()

    def failed(error: Exception) -> None:
        desk.door.trouble(error)
        over()

    desk.executor.run(
        lambda errand: stop_now(
            ledger, number, entry, row.command, row.users, lambda: errand.going_on
        ),
        done,
        failed,
    )
