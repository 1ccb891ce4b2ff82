"""Deciding about entries, in whichever view they are chosen."""

from collections.abc import Sequence

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.ui.desk import Desk
from plucky_ledger.usecases.changing.decisions import decide
from plucky_ledger.wording.language import say


class Deciding:
    """Takes decisions of one view; about guarded entries only the second time."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self._refused: tuple[Decision, frozenset[str]] | None = None

    def decide(
        self,
        entries: Sequence[StartupEntry],
        decision: Decision,
        state: EntryState | None = None,
        reason: str = "",
    ) -> None:
        """Decide about some entries."""
        job = self._desk.job
        if job is None or not entries:
            self._desk.door.say(say("Select an entry first."))
            return
        what = (decision, frozenset(entry.entry_id for entry in entries))
        deliberate, self._refused = what == self._refused, what
        number = job.number
        self._desk.do(
            lambda ledger: decide(ledger, number, entries, decision, reason, deliberate, state)
        )
