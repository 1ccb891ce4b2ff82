"""Changing the PC on the desk from the window: posting, and putting back."""

from PySide6.QtCore import QObject

from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.window_panels import Panels
from plucky_ledger.usecases.changing.putting_back import (
    posting_in_force,
    put_back_by_the_journal,
)
from plucky_ledger.usecases.changing.switching import Made, post, switch_pencilled
from plucky_ledger.usecases.recording.turns import (
    Turn,
    begin_turns,
    end_turns,
    plan_turn,
    play_turn,
)
from plucky_ledger.wording.language import say
from plucky_ledger.wording.switching import (
    put_back_in_words,
    turns_begun,
    turns_going_on,
)


class Switching(QObject):
    """What changes a PC: first the PC, which may take a password, then the book."""

    def __init__(self, desk: Desk, panels: Panels) -> None:
        super().__init__()
        self._desk = desk
        self._panels = panels

    def post(self) -> None:
        """Make the pencilled changes, after a look at what they change."""
        if self._desk.job is not None:
            self._panels.show_posting()

    def strike_out(self) -> None:
        """Put the selected posting back."""
        job, posting = self._desk.job, self._desk.selection.posting
        if job is not None and posting is not None:
            self._panels.show_putting_back(posting.number, ())

    def put_entry_back(self, entry_id: str) -> None:
        """Put one entry back as it was, whatever else its posting did."""
        job = self._desk.job
        posting = posting_in_force(job, entry_id) if job is not None else None
        if job is None or posting is None:
            self._desk.door.say(
                say("This entry is as it was at first: there is nothing to put back.")
            )
        else:
            self._panels.show_putting_back(posting, (entry_id,))

    def put_everything_back(self) -> None:
        """Put back everything since the opening."""
        if self._desk.job is not None:
            self._panels.show_putting_back(None, ())

    def begin_turns(self) -> None:
        """Plan boots in turns of the two states that the selected line compares."""
        job, measure, line = self._desk.job, self._desk.measure, self._desk.line
        if job is not None:
            number = job.number
            self._desk.do(
                lambda ledger: begin_turns(ledger, number, measure, line),
                lambda left: self._desk.door.say(turns_begun(left)),
            )

    def end_turns(self) -> None:
        """Take no more boots in turns; the PC stays as it is."""
        job = self._desk.job
        if job is not None:
            number = job.number
            self._desk.do(lambda ledger: end_turns(ledger, number))

    def take_turn(self) -> None:
        """Bring the PC to the state of the next turn, then have it restarted and recorded."""
        job = self._desk.job
        if job is None:
            return
        number = job.number
        if job.pc.kind is PcKind.STAND_IN:
            self._play_turn(number)
        else:
            self._desk.do(
                lambda ledger: plan_turn(ledger, number), lambda turn: self._planned(number, turn)
            )

    def _play_turn(self, number: int) -> None:
        """One boot after the other, until there are enough or somebody ends it."""

        def recorded(turn: Turn) -> None:
            self._desk.stand_at_newest()
            self._desk.door.say(turns_going_on(turn.left))
            job = self._desk.job
            if turn.left and job is not None and job.number == number and job.turns is not None:
                self._play_turn(number)

        self._desk.do(lambda ledger: play_turn(ledger, number), recorded)

    def _planned(self, number: int, turn: Turn) -> None:
        """What the turn takes is pencilled: the PC is switched, which may ask for a password."""
        if not turn.to_switch:
            self._turned(number, turn)
            return
        ledger = self._desk.ledger

        def switched(made: Made) -> None:
            self._desk.do(
                lambda ledger: post(ledger, number, made),
                lambda _posting: self._turned(number, turn),
            )

        self._desk.executor.run(lambda _errand: switch_pencilled(ledger, number), switched)

    def _turned(self, number: int, turn: Turn) -> None:
        """The PC is as it is to be, or has to be changed by hand first."""
        self._desk.open_job(number)
        if turn.by_hand:
            self._panels.show_posting()
        elif turn.left:
            self._panels.show_arming()

    def put_back_cut_off(self) -> None:
        """Put back what was cut off on this PC, whichever job it was for."""
        self._desk.executor.run(
            lambda _errand: put_back_by_the_journal(cut_off=True),
            lambda undone: self._desk.door.say(put_back_in_words(undone)),
        )
