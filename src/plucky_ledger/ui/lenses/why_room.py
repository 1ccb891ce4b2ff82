"""Room: what takes it on the PC's drive, found on demand; nothing is deleted from here."""

from html import escape

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QCheckBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.pc.room import Clearing, Heap, Survey
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.executor import Errand
from plucky_ledger.ui.text import Text, explain, paragraph, small
from plucky_ledger.ui.theme import ink, title_font
from plucky_ledger.usecases.reading.room import pencil_clearing, survey
from plucky_ledger.wording.basis import Basis
from plucky_ledger.wording.figures import size
from plucky_ledger.wording.language import say
from plucky_ledger.wording.room import HeapWords, heap_in_words, looking, room_basis, room_in_short
from plucky_ledger.wording.why_basis import of_room

BAR = QSize(168, 14)
BESIDE_TEXT = 34
"""Pixels of a button beside its text, so that it keeps its width whatever stands on it."""


class HeapBar(QWidget):
    """How large a heap is beside the largest; hatched where it is not to be cleared."""

    def __init__(self, heap: Heap, largest: Heap) -> None:
        super().__init__()
        self._share = heap.size_bytes / largest.size_bytes if largest.size_bytes else 0.0
        self._needed = heap.clearing is Clearing.NEVER
        self.setFixedSize(BAR)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, colours = QPainter(self), ink()
        box = QRectF(0.5, 0.5, self.width() - 1.0, self.height() - 1.0)
        filled = QRectF(box.left(), box.top(), box.width() * min(self._share, 1.0), box.height())
        pattern = Qt.BrushStyle.BDiagPattern if self._needed else Qt.BrushStyle.SolidPattern
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colours.of("disk"))
        brush = painter.brush()
        brush.setStyle(pattern)
        painter.fillRect(filled, brush)
        painter.setPen(QPen(colours.of("rule"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)


class RoomView(QWidget):
    """A button that looks, how far it is, and the heaps, the largest first."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.survey: Survey | None = None
        self._of: int | None = None
        self._errand: Errand | None = None
        look = say("Check disk space")
        self.look_button = QPushButton(look)
        self.look_button.setMinimumWidth(self.fontMetrics().horizontalAdvance(look) + BESIDE_TEXT)
        self.look_button.clicked.connect(self._look_or_stop)
        self.as_administrator = QCheckBox(say("as the administrator"))
        explain(
            self.as_administrator,
            say("Looks into other people's folders as well. You may be asked for a password."),
        )
        self._progress = Text()
        self._progress.setProperty("quiet", True)
        # However long the folder's name is, the button keeps its width.
        self._progress.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._found = QScrollArea()
        self._found.setAccessibleName(say("What takes the room"))
        self._found.setWidgetResizable(True)
        self._found.setFrameShape(QFrame.Shape.NoFrame)
        row = QHBoxLayout()
        row.setContentsMargins(16, 10, 20, 4)
        row.addWidget(self.look_button)
        row.addWidget(self.as_administrator)
        row.addWidget(self._progress, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(row)
        layout.addWidget(self._found, 1)

    def refresh(self) -> None:
        """Another job's survey is not this one's."""
        job = self._desk.job
        if job is not None and job.number != self._of:
            self._stop()
            self._of, self.survey = job.number, None
            self._found.setWidget(_hint())
            self._progress.setText("")

    def _look_or_stop(self) -> None:
        if self._errand is not None:
            self._stop()
            return
        job, ledger = self._desk.job, self._desk.ledger
        if job is None:
            return
        number, everywhere = job.number, self.as_administrator.isChecked()

        def work(errand: Errand) -> Survey:
            def progress(files: int, folder: str) -> bool:
                errand.tell(looking(files, folder))
                return errand.going_on

            return survey(ledger, number, progress, everywhere)

        def done(found: Survey) -> None:
            self._ended()
            if number == self._of:
                self.survey = found
                self._found.setWidget(self._built(found))

        def failed(error: Exception) -> None:
            self._ended()
            self._desk.door.trouble(error)

        self.look_button.setText(say("Stop"))
        self._errand = self._desk.executor.run(work, done, failed, self._progress.setText)

    def _stop(self) -> None:
        if self._errand is not None:
            self._errand.stop()

    def _ended(self) -> None:
        self._errand = None
        self.look_button.setText(say("Check disk space"))
        self._progress.setText("")

    def _built(self, found: Survey) -> QWidget:
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(16, 0, 20, 12)
        layout.setSpacing(6)
        answer = paragraph(escape(room_in_short(found)))
        answer.setFont(title_font(1.6))
        layout.addWidget(answer)
        layout.addWidget(paragraph(escape(room_basis(found)), quiet=True))
        layout.addSpacing(8)
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(9)
        grid.setColumnStretch(1, 1)
        for row, heap in enumerate(found.heaps):
            self._add(grid, row, heap, found)
        layout.addLayout(grid)
        layout.addStretch(1)
        return body

    def _add(self, grid: QGridLayout, row: int, heap: Heap, found: Survey) -> None:
        words, top = heap_in_words(heap), Qt.AlignmentFlag.AlignTop
        grid.addWidget(HeapBar(heap, found.heaps[0]), row, 0, top)
        summary = paragraph(
            f"<b>{escape(words.name)}</b> · {escape(words.size)}"
            f"<br>{small(escape(words.about))}"
            f"<br>{escape(words.clearing)} {escape(words.how)}"
        )
        summary.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        grid.addWidget(summary, row, 1, top)
        if words.change:
            button = QPushButton(say("Pencil it"))
            button.setAccessibleName(say("Pencil: {change}", change=words.change))
            button.setEnabled(self._desk.writable)
            button.clicked.connect(lambda: self._pencil(words, found))
            grid.addWidget(button, row, 2, top)

    @property
    def basis(self) -> Basis | None:
        """What was counted."""
        return of_room(self.survey) if self.survey is not None else None

    def _pencil(self, words: HeapWords, found: Survey) -> None:
        """Freed room goes into the book like any other change."""
        number = self._of
        if number is not None:
            free = size(found.free_bytes)
            self._desk.do(lambda ledger: pencil_clearing(ledger, number, words.change, free))


def _hint() -> QWidget:
    hint = Text(
        say(
            "Adds up the size of every file on the system disk. It takes about a minute, can be "
            "stopped, and changes nothing."
        )
    )
    hint.setProperty("quiet", True)
    hint.setWordWrap(True)
    hint.setMargin(16)
    hint.setAlignment(Qt.AlignmentFlag.AlignTop)
    return hint
