"""Posting on a real PC: what will be changed there, and what is left to be done by hand."""

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.changes import ChangesPanel
from plucky_ledger.usecases.changing.switching import Made, Planned, planned, post, switch_pencilled
from plucky_ledger.wording.entries import expected_in_words, may_lose
from plucky_ledger.wording.language import say
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.switching import posted


class PostPanel(ChangesPanel):
    """Makes the pencilled changes."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk, say("Post"))

    def begin(self) -> None:
        """Look at the PC, and show what posting would change there."""
        job, ledger = self._desk.job, self._desk.ledger
        if job is not None:
            number = job.number
            self.look(lambda: planned(ledger, number))

    def hint(self, found: tuple[Planned, ...]) -> str:
        """On which PC, what is expected, and what there is to know."""
        job, expected = self._desk.job, self._desk.expected
        on_which = say("On {pc}.", pc=shown(job.card.title)) if job is not None else ""
        sentences = [on_which, self._about(found)]
        if expected is not None:
            sentences.insert(1, f"{expected_in_words(expected)}.")
            sentences.insert(2, may_lose(expected))
        return " ".join(filter(None, sentences))

    def _about(self, found: tuple[Planned, ...]) -> str:
        if all(one.by_hand for one in found):
            return say(
                "Plucky Ledger cannot switch this PC from here. Make each change on it and tick "
                "it. The posting is then written down, and the PC needs a restart."
            )
        return say(
            "Every change is written down first and can be put back byte for byte. Restart "
            "afterwards: nothing counts before."
        )

    def change(self) -> None:
        """Change the PC, then write down that it is changed."""
        job, ledger = self._desk.job, self._desk.ledger
        if job is None:
            return
        number, shown = job.number, self.planned
        self.changing()
        self._desk.executor.run(
            lambda _errand: switch_pencilled(ledger, number, shown), self._made, self.failed
        )

    def _made(self, made: Made) -> None:
        job = self._desk.job
        if job is None:
            return
        number, told, plan = job.number, posted(Made(made.switched)), self._desk.expected

        def done(_posting: int) -> None:
            self._desk.door.say(told)
            self.leave()
            self._desk.stand_at_newest()

        self._desk.do(lambda ledger: post(ledger, number, made, plan), done)
