"""Posting on a real PC: what will be changed there, and what is left to be done by hand."""

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QCheckBox, QScrollArea, QVBoxLayout, QWidget

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.switching import Made, Planned, planned, post, switch_pencilled
from plucky_ledger.wording.language import say
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.switching import list_to_do, planned_in_words, posted


class PostPanel(Panel):
    """One line a change. What the program makes is only told; what somebody has to make by hand
    has a box: it is posted when every box is ticked.
    """

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Post"))
        self._desk = desk
        self._planned: tuple[Planned, ...] = ()
        self.boxes: list[QCheckBox] = []
        self._list = QScrollArea()
        self._list.setWidgetResizable(True)
        self.body.addWidget(self._list, 1)
        self.leave_button = self.add_button(say("Leave it"))
        self.leave_button.clicked.connect(self.leave)
        self.copy_button = self.add_button(say("Copy the list"))
        self.copy_button.clicked.connect(self.copy)
        self.post_button = self.add_button(say("Post"), main=True)
        self.post_button.clicked.connect(self.post)

    def begin(self) -> None:
        """Look at the PC, and show what posting would change there."""
        job, ledger = self._desk.job, self._desk.ledger
        if job is None:
            return
        self.refuse(None)
        self._show(())
        self.retitle(say("Post"), say("Looking at how the entries are set…"))
        number = job.number
        self._desk.executor.run(lambda _errand: planned(ledger, number), self._looked, self._failed)

    def _looked(self, found: tuple[Planned, ...]) -> None:
        by_hand = sum(one.by_hand for one in found)
        if by_hand == len(found):
            hint = say(
                "This PC is not switched from here. Make each change on it, and tick it. "
                "Then the posting is written down, and a restart is due."
            )
        else:
            hint = say(
                "What is switched here is written down first and can be put back, byte for byte. "
                "A restart is due afterwards: nothing counts before."
            )
        self.retitle(say("Post"), hint)
        self._show(found)
        self.post_button.setFocus()

    def _show(self, found: tuple[Planned, ...]) -> None:
        self._planned, self.boxes = found, []
        inner = QWidget()
        lines = QVBoxLayout(inner)
        lines.setContentsMargins(0, 0, 8, 0)
        lines.setSpacing(2)
        for one in found:
            what, about = planned_in_words(one)
            if one.by_hand:
                box = QCheckBox(shown(what))
                box.toggled.connect(self._allow)
                self.boxes.append(box)
                lines.addWidget(box)
            else:
                lines.addWidget(Text(f"→ {shown(what)}"))
            quiet = Text(about)
            quiet.setWordWrap(True)
            quiet.setIndent(22)
            quiet.setProperty("quiet", True)
            lines.addWidget(quiet)
            lines.addSpacing(8)
        lines.addStretch(1)
        self._list.setWidget(inner)
        self.copy_button.setVisible(bool(self.boxes))
        self._allow()

    def _allow(self) -> None:
        done = all(box.isChecked() for box in self.boxes)
        self.post_button.setEnabled(bool(self._planned) and done)

    def copy(self) -> None:
        """The list to be done by hand, for the bench."""
        by_hand = [one for one in self._planned if one.by_hand]
        title = self._desk.job.card.title if self._desk.job else ""
        QGuiApplication.clipboard().setText(list_to_do(by_hand, title))
        self._desk.door.say(say("The list is copied."))

    def post(self) -> None:
        """Change the PC, then write down that it is changed."""
        job, ledger = self._desk.job, self._desk.ledger
        if job is None:
            return
        number = job.number
        self.post_button.setEnabled(False)
        self.retitle(say("Post"), say("Changing this PC. Somebody may be asked for a password…"))
        self._desk.executor.run(
            lambda _errand: switch_pencilled(ledger, number), self._made, self._failed
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

    def _failed(self, error: Exception) -> None:
        """It stays as it was: said here, where it can be tried again."""
        self.retitle(say("Post"), "")
        self._allow()
        self._desk.door.trouble(error)
