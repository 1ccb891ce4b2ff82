"""Putting back on a real PC: what will be undone there, and what is left to be undone by hand."""

from plucky_ledger.core.job.changes import Change
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.changes import ChangesPanel
from plucky_ledger.usecases.changing.putting_back import (
    planned_put_back,
    put_back_on_pc,
    write_back,
)
from plucky_ledger.usecases.changing.switching import Planned
from plucky_ledger.wording.language import say
from plucky_ledger.wording.switching import struck_out


class PutBackPanel(ChangesPanel):
    """Undoes a posting, what it did to some entries, or everything."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk, say("Put back"))
        self._posting: int | None = None
        self._entries: tuple[str, ...] = ()

    def begin(self, posting: int | None, entries: tuple[str, ...]) -> None:
        """Look at the PC, and show what would be undone there; None stands for every posting."""
        job, ledger = self._desk.job, self._desk.ledger
        if job is not None:
            self._posting, self._entries = posting, entries
            number = job.number
            self.look(lambda: planned_put_back(ledger, number, posting, entries))

    def hint(self, found: tuple[Planned, ...]) -> str:
        """What is said above the list."""
        if all(one.by_hand for one in found):
            return say(
                "Plucky Ledger cannot undo this from here. Undo each change on the PC and tick "
                "it. It is then written down, and the PC needs a restart."
            )
        return say(
            "Each file becomes as it was before, byte for byte. A file that another program has "
            "changed since is left as it is and named. Restart afterwards: nothing counts "
            "before."
        )

    def change(self) -> None:
        """First on the PC, where somebody may be asked for a password, then in the book."""
        job, ledger = self._desk.job, self._desk.ledger
        if job is None:
            return
        number, posting, entries = job.number, self._posting, self._entries
        ticked = frozenset(one.change.what for one in self.planned if one.by_hand)
        self.changing()

        def written(by_hand: tuple[Change, ...]) -> None:
            left = tuple(change for change in by_hand if change.what not in ticked)
            self._desk.do(
                lambda ledger: write_back(ledger, number, posting, entries),
                lambda _: self._over(left),
            )

        self._desk.executor.run(
            lambda _errand: put_back_on_pc(ledger, number, posting, entries), written, self.failed
        )

    def _over(self, left: tuple[Change, ...]) -> None:
        self._desk.door.say(struck_out(left))
        self.leave()
        self._desk.stand_at_newest()
