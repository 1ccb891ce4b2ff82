"""The stopwatch: one large time and one large target, then the marks to keep or correct."""

import time
from operator import itemgetter

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.marks import PERSON_MARKS, Mark
from plucky_ledger.core.boots.stopwatch import REACTION_SECONDS, Stopwatch
from plucky_ledger.core.values.trouble import Refused
from plucky_ledger.ui.accessible.announcing import announce
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.fields import FigureField
from plucky_ledger.ui.panels.panel import Panel, form
from plucky_ledger.ui.text import Text
from plucky_ledger.ui.theme import scaled_font
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.recording.boots import add_timed, correct_marks
from plucky_ledger.wording.card import WHAT_IS_SEEN
from plucky_ledger.wording.figures import day_and_time, number, seconds
from plucky_ledger.wording.labels import capital, label
from plucky_ledger.wording.language import N_, say

REFRESH_MILLISECONDS = 50
WHAT_TO_PRESS = {
    Mark.POWER_ON: N_("Press the PC's power button and this together"),
    **WHAT_IS_SEEN,
}


class MarksForm(QWidget):
    """The marks of a boot as figures that can be corrected."""

    def __init__(self) -> None:
        super().__init__()
        layout = form()
        self.fields: dict[Mark, FigureField] = {}
        for mark in PERSON_MARKS:
            field = FigureField(label(mark), say("seconds"))
            self.fields[mark] = field
            layout.addRow(capital(label(mark)), field)
        self.setLayout(layout)

    def put(self, marks: dict[Mark, float]) -> None:
        """Show marks."""
        for mark, field in self.fields.items():
            field.put(marks.get(mark), 2)

    def marks(self) -> dict[Mark, float]:
        """What the fields say. Raises Refused."""
        typed = {mark: field.figure() for mark, field in self.fields.items()}
        return {mark: value for mark, value in typed.items() if value is not None}


class StopwatchPanel(Panel):
    """Times another PC by eye. Space marks, Backspace takes back."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Time a boot with the stopwatch"))
        self._desk = desk
        self._started_at = now()
        self.watch = Stopwatch(time.monotonic)
        self._time = Text(number(0.0, 1))
        self._time.setFont(scaled_font(7.0, bold=True))
        self._time.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.target = QPushButton()
        self.target.setProperty("main", True)
        self.target.setFont(scaled_font(1.8, bold=True))
        self.target.setMinimumHeight(130)
        self.target.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.target.pressed.connect(self.press)  # not when it is let go: that is later
        self.setFocusProxy(self.target)
        self.form = MarksForm()
        row = QHBoxLayout()
        left = QVBoxLayout()
        left.addWidget(self._time)
        left.addWidget(self.target, 1)
        row.addLayout(left, 2)
        row.addWidget(self.form, 1)
        self.body.addLayout(row, 1)
        self._ticker = QTimer(self)
        self._ticker.setInterval(REFRESH_MILLISECONDS)
        self._ticker.timeout.connect(self._show_time)
        self.back_button = self.add_button(say("Undo (Backspace)"))
        self.back_button.clicked.connect(self.take_back)
        leave = self.add_button(say("Cancel"))
        leave.clicked.connect(self.leave)
        self.keep_button = self.add_button(say("Save this boot"), main=True)
        self.keep_button.clicked.connect(self.keep)
        for button in (self.back_button, leave, self.keep_button):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def begin(self) -> None:
        """A fresh stopwatch."""
        self.watch = Stopwatch(time.monotonic)
        self.refuse(None)
        self._show_state()
        self.setFocus()

    def press(self) -> None:
        """Set the next mark."""
        if self.watch.press() is Mark.POWER_ON:
            self._started_at = now()
            self._ticker.start()
        self._show_state()
        marks = self.watch.marks
        if marks:
            mark, at = max(marks.items(), key=itemgetter(1))
            told = say("{mark} at {instant}", mark=label(mark), instant=seconds(at))
            announce(self._time, told)

    def take_back(self) -> None:
        """Take back the last mark."""
        self.watch.take_back()
        self._show_state()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.isAutoRepeat():
            return
        if event.key() == Qt.Key.Key_Space:
            self.press()
        elif event.key() == Qt.Key.Key_Backspace:
            self.take_back()
        elif event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter} and self.target.hasFocus():
            self.keep_button.click()  # a mark is set by Space alone
        else:
            super().keyPressEvent(event)

    def leave(self) -> None:
        self._ticker.stop()
        super().leave()

    def keep(self) -> None:
        """Put the boot into the book with the marks as the fields say."""
        job, started_at = self._desk.job, self._started_at
        try:
            marks = self.form.marks()
        except Refused as refused:
            self.refuse(refused)
            return
        if job is None:
            return
        number = job.number
        self._desk.do(
            lambda ledger: add_timed(ledger, number, marks, started_at), lambda _boot: self.leave()
        )

    def _show_time(self) -> None:
        """In tenths for the eye, in whole seconds for who has it read out."""
        elapsed = self.watch.elapsed
        self._time.setText(number(elapsed, 1))
        self._time.setAccessibleName(say("{time} since power on", time=seconds(elapsed, 0)))

    def _show_state(self) -> None:
        marks = self.watch.marks
        self._show_time()
        self.form.put(marks)
        waiting = self.watch.next_mark
        if waiting is None:
            self._ticker.stop()
            self.target.setText(say("All marked"))
        else:
            self._ticker.start() if marks else self._ticker.stop()
            self.target.setText(f"{say(WHAT_TO_PRESS[waiting])}\n{say('Space')}")
        self.target.setEnabled(waiting is not None)
        self.back_button.setEnabled(bool(marks))
        self.keep_button.setEnabled(len(marks) > 1)
        self.retitle(
            say("Time a boot with the stopwatch"),
            say(
                "Space sets a mark, Backspace undoes it. Correct the marks at the right before "
                "you save. A mark set by hand is off by up to {reaction}.",
                reaction=seconds(REACTION_SECONDS, 2),
            ),
        )


class CorrectMarksPanel(Panel):
    """Corrects the marks of a boot that is in the book."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Correct the marks"))
        self._desk = desk
        self._boot: Boot | None = None
        self.form = MarksForm()
        self.body.addWidget(self.form)
        self.body.addStretch(1)
        leave = self.add_button(say("Cancel"))
        leave.clicked.connect(self.leave)
        self.keep_button = self.add_button(say("Save corrections"), main=True)
        self.keep_button.clicked.connect(self.keep)

    def begin(self, boot: Boot) -> None:
        """Show a boot's marks."""
        self._boot = boot
        self.form.put(dict(boot.marks))
        self.retitle(
            say("Correct the marks"),
            say(
                "Boot of {when}. Seconds since the start; leave a mark empty if it was not seen.",
                when=day_and_time(boot.started_at),
            ),
        )

    def keep(self) -> None:
        """Write the corrected marks into the book."""
        job, boot = self._desk.job, self._boot
        try:
            typed = self.form.marks()
        except Refused as refused:
            self.refuse(refused)
            return
        if job is None or boot is None:
            return
        kept = {mark: at for mark, at in boot.marks.items() if mark not in self.form.fields}
        marks = {**kept, **typed}
        number, boot_number = job.number, boot.number
        self._desk.do(
            lambda ledger: correct_marks(ledger, number, boot_number, marks),
            lambda _none: self.leave(),
        )
