"""The left page: the book's lines, its balance, and the next step."""

from PySide6.QtCore import QModelIndex, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.book.next_step import NextStepKind
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import BookPage, book_page, expecting
from plucky_ledger.pages.folds import folds_of
from plucky_ledger.ui.accessible.following import keyboard_follows
from plucky_ledger.ui.book.book_lines import BookLines
from plucky_ledger.ui.book.book_model import BookModel
from plucky_ledger.ui.book.line_layout import (
    MARGIN,
    column_width,
    headings,
    margin_width,
    narrow,
    narrowest,
)
from plucky_ledger.ui.choices import Chooser
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.text import Text
from plucky_ledger.ui.theme import named
from plucky_ledger.wording.book import next_button, next_sentence
from plucky_ledger.wording.labels import label, unit_word
from plucky_ledger.wording.language import say


class BookView(QWidget):
    """The left page.

    Signals:
        next_wanted(Step): the button of the next step was pressed.
    """

    next_wanted = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("bookPage")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._desk = desk
        self._made: tuple[Job, Measure, BookPage] | None = None
        """The page that was made last, without what is expected, and what it is of."""
        self.step = NextStepKind.RECORD_OPENING
        self.by_restart = False
        """Recording this PC is arming the recorder and restarting."""
        self.model = BookModel()
        self.lines = BookLines(self.model, balance_alone=False)
        self.lines.setAccessibleName(say("The book"))
        self.balance = BookLines(self.model, balance_alone=True)
        self.balance.setAccessibleName(say("Balance"))
        self.balance.setSelectionModel(self.lines.selectionModel())
        keyboard_follows(self.lines)
        bar = self.lines.verticalScrollBar()
        bar.rangeChanged.connect(
            lambda _least, most: self.balance.keep_free(bar.width() if most > 0 else 0)
        )
        self.lines.selectionModel().currentChanged.connect(self._line_chosen)
        self.measure = Chooser(say("Book kept in"), flat=True)
        for measure in Measure:
            parts = (label(measure), unit_word(measure))
            self.measure.addItem(", ".join(filter(None, parts)), measure)
        self.measure.activated.connect(
            lambda at: desk.keep_book_in(Measure(self.measure.itemData(at)))
        )
        self._sentence = Text()
        self._sentence.setWordWrap(True)
        self.button = QPushButton()
        self.button.setProperty("main", True)
        self.button.clicked.connect(lambda: self.next_wanted.emit(self.step))
        self._lay_out()
        desk.job_changed.connect(self.refresh)
        desk.measure_changed.connect(self.refresh)
        desk.expected_changed.connect(self.refresh)
        desk.line_changed.connect(self._show_line)

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        head = named("bookHead")
        row = QHBoxLayout(head)
        row.setContentsMargins(MARGIN, 6, MARGIN, 6)
        row.setSpacing(4)
        kept_in = _quiet(say("Book kept in"))
        row.addWidget(kept_in)
        row.addWidget(self.measure)
        row.addStretch(1)
        at_full_width = []
        for title in headings():
            heading = _quiet(title)
            heading.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            heading.setMinimumWidth(column_width() - 4)
            row.addWidget(heading)
            at_full_width.append(heading)
        self._at_full_width, self._kept_in = at_full_width, kept_in
        layout.addWidget(head)
        layout.addWidget(self.lines, 1)
        layout.addWidget(self.balance)
        layout.addStretch()
        foot = named("bookFoot")
        self._foot = QBoxLayout(QBoxLayout.Direction.LeftToRight, foot)
        self._foot.setContentsMargins(MARGIN, 9, MARGIN, 9)
        words = QVBoxLayout()
        words.setSpacing(1)
        words.addWidget(_quiet(say("Next")))
        words.addWidget(self._sentence)
        self._foot.addLayout(words, 1)
        self._foot.addWidget(self.button, 0, Qt.AlignmentFlag.AlignVCenter)
        layout.addWidget(foot)
        self._beyond_margin = [self.measure, foot]
        self.setMinimumWidth(margin_width())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Narrowed, it shows names and balances; narrowed to a margin, the balances alone."""
        super().resizeEvent(event)
        for least, widgets in (
            (narrow(), self._at_full_width[:2]),
            (narrowest(), self._beyond_margin),
        ):
            for widget in widgets:
                widget.setVisible(self.width() >= least)
        in_head = (self._kept_in, self.measure, *self._at_full_width)
        needed = sum(widget.sizeHint().width() + 4 for widget in in_head) + 2 * MARGIN
        self._kept_in.setVisible(self.width() >= max(narrow(), needed))
        beside = self.width() >= narrow()
        direction = QBoxLayout.Direction
        self._foot.setDirection(direction.LeftToRight if beside else direction.TopToBottom)
        self.lines.scheduleDelayedItemsLayout()  # a line is as high as its words, at this width
        for lines in (self.lines, self.balance):
            lines.fit()

    def refresh(self) -> None:
        """Show the job as it is now."""
        job = self._desk.job
        if job is None:
            self._made = None
            self.model.show_page(None)
            return
        # Most steps of an evening change no line: decisions, above all.
        if self._made is None or self._made[:2] != (job, self._desk.measure):
            self._made = job, self._desk.measure, book_page(job, self._desk.measure)
        page = expecting(self._made[2], self._desk.expected)
        if page != self.model.page:
            self._show(page)
        self._show_line()

    def _show(self, page: BookPage) -> None:
        self.step, self.by_restart = page.step.step, page.by_restart
        self.model.show_page(page)
        for lines in (self.lines, self.balance):
            lines.show_own_rows()
        self._sentence.setText(next_sentence(page))
        self.button.setText(next_button(page))
        self.measure.setCurrentIndex(self.measure.findData(page.measure))

    def unfold(self, unfolded: bool) -> None:
        """Show each line of boots in turns and night shifts, or one for all of them."""
        self.model.unfolded = unfolded
        if self.model.page is not None:
            self._show(self.model.page)
            self._show_line()

    def fold_or_unfold(self) -> None:
        """The other way than now."""
        if not self.model.unfolded:
            self.unfold(True)
            return
        page = self.model.page
        for fold in folds_of(page.rows) if page is not None else ():
            if fold.first <= self._desk.line < fold.last:
                self._desk.select_line(fold.last)  # what is selected stays in sight
        self.unfold(False)

    def _show_line(self) -> None:
        if self._desk.line in self.model.folded_away:
            self.unfold(True)
            return
        index = self.model.index(self._desk.line)
        if index.isValid() and self.lines.currentIndex().row() != index.row():
            self.lines.setCurrentIndex(index)

    def _line_chosen(self, current: QModelIndex, _before: QModelIndex) -> None:
        if current.isValid():
            self.lines.doItemsLayout()  # the selected line shows all its words
            self.lines.fit()
            self.lines.scrollTo(current)
            self._desk.select_line(current.row())


def _quiet(text: str) -> QLabel:
    label = Text(text)
    label.setProperty("quiet", True)
    return label
