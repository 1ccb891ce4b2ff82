"""The left page: the book's lines, its balance, and the next step."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRect,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QFont, QFontMetrics, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QListView,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.book.next_step import NextStepKind
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.values.axes import Span
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import BookPage, BookRow, book_page
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.drawing.dot_strip import draw_dots, draw_expected
from plucky_ledger.ui.drawing.posting_sign import draw_posting_sign
from plucky_ledger.ui.text import Text
from plucky_ledger.ui.theme import ink, named, scaled_font
from plucky_ledger.wording.book import (
    RowWords,
    closing,
    next_button,
    next_sentence,
    row_in_words,
    total_lost,
    total_saved,
)
from plucky_ledger.wording.labels import label, unit_word
from plucky_ledger.wording.language import say

Index = QModelIndex | QPersistentModelIndex
COLUMN_CHARACTERS = 7
"""Width of each amount column, in digits."""
SIGN_WIDTH = 34
MARGIN = 12
MARGIN_WIDTH = 118
"""The least width of the page: a margin with the balances."""
NARROW = 330
"""Below this it shows the margin alone."""
MOST_LINES = 3
"""Of the particulars of a line that is not selected; the selected one shows all."""


class BookModel(QAbstractListModel):
    """The rows of the book, and the balance as last row."""

    def __init__(self) -> None:
        super().__init__()
        self.page: BookPage | None = None
        self.words: tuple[RowWords, ...] = ()
        """The page's rows in words."""

    def show_page(self, page: BookPage | None) -> None:
        """Show another page."""
        self.beginResetModel()
        self.page = page
        self.words = tuple(row_in_words(row) for row in page.rows) if page else ()
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        if self.page is None or (parent is not None and parent.isValid()):
            return 0
        return len(self.page.rows) + 1

    def row(self, index: Index) -> BookRow | None:
        """The row at an index; None for the balance at the foot."""
        rows = self.page.rows if self.page else ()
        return rows[index.row()] if index.row() < len(rows) else None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or self.page is None:
            return None
        if role in (
            Qt.ItemDataRole.DisplayRole,
            Qt.ItemDataRole.AccessibleTextRole,
        ):
            if self.row(index) is not None:
                return self.words[index.row()].spoken
            return say("Balance {amount}", amount=closing(self.page))
        return None


class BookDelegate(QStyledItemDelegate):
    """Paints a line: sign, particulars, dot strip, remark, and the three amounts."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        model = index.model()
        assert isinstance(model, BookModel)
        height = QFontMetrics(scaled_font(1.0, bold=True)).height()
        small = QFontMetrics(scaled_font(0.84)).height()
        if model.row(index) is None:
            return QSize(MARGIN_WIDTH, height + 22)
        view = self.parent()
        wide = view.viewport().width() if isinstance(view, QListView) else 200
        if wide < NARROW:
            return QSize(MARGIN_WIDTH, height + 22)
        whole = isinstance(view, QListView) and view.currentIndex().row() == index.row()
        laid = _laid(model.words[index.row()], wide, scaled_font(1.0, bold=True), whole)
        return QSize(MARGIN_WIDTH, len(laid.particulars) * height + len(laid.remark) * small + 32)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        model = index.model()
        assert isinstance(model, BookModel)
        assert model.page is not None
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box: QRect = option.rect
        colours = ink()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, colours.of("wash"))
            if option.state & QStyle.StateFlag.State_HasFocus:
                painter.fillRect(box.left(), box.top(), 4, box.height(), colours.of("saved"))
        row = model.row(index)
        if row is None:
            self._paint_balance(painter, box, model.page)
        elif box.width() < NARROW:
            self._paint_margin(painter, box, row, model.words[index.row()])
        else:
            selected = bool(option.state & QStyle.StateFlag.State_Selected)
            words = model.words[index.row()]
            self._paint_row(painter, box, row, words, model.page.span, selected)
            painter.setPen(QPen(colours.of("faint"), 1))
            painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.restore()

    def _paint_row(
        self,
        painter: QPainter,
        box: QRect,
        row: BookRow,
        words: RowWords,
        span: Span | None,
        selected: bool,
    ) -> None:
        colours = ink()
        pencilled = row.state is PostingState.PENCILLED
        colour = colours.of("pencil" if pencilled and not selected else "ink")
        font = scaled_font(1.0, bold=not pencilled)
        font.setStrikeOut(row.state is PostingState.STRUCK_OUT)
        metrics = QFontMetrics(font)
        top, width = box.top() + 7, column_width()
        draw_posting_sign(
            painter,
            QPointF(box.left() + 17, top + metrics.height() / 2),
            None if row.opens else row.state,
            colour,
        )
        painter.setFont(font)
        painter.setPen(colour)
        baseline = top + metrics.ascent()
        laid = _laid(words, box.width(), font, selected)
        for number, line in enumerate(laid.particulars):
            at = QPointF(box.left() + SIGN_WIDTH, baseline + number * metrics.height())
            painter.drawText(at, line)
        font.setStrikeOut(False)
        painter.setFont(font)
        _amount(painter, box, 2, baseline, words.saved, "saved")
        _amount(painter, box, 1, baseline, words.lost, "lost")
        painter.setFont(scaled_font(1.0, bold=True))
        _amount(painter, box, 0, baseline, words.balance, "ink")
        strip = QRectF(
            box.left() + SIGN_WIDTH,
            top + len(laid.particulars) * metrics.height() + 4,
            box.width() - SIGN_WIDTH - MARGIN - 2.4 * width,
            12,
        )
        if span is not None:
            draw_dots(painter, strip, row.dots, row.typical, span, colour, colours.of("faint"))
            if row.expected is not None:
                draw_expected(painter, strip, row.expected.value, span, colour)
        painter.setFont(scaled_font(0.84))
        painter.setPen(colours.of("ink" if selected else "pencil"))
        small = painter.fontMetrics()
        below = strip.bottom() + small.ascent() + 1
        for number, line in enumerate(laid.remark):
            painter.drawText(QPointF(strip.left(), below + number * small.height()), line)

    @staticmethod
    def _paint_margin(painter: QPainter, box: QRect, row: BookRow, words: RowWords) -> None:
        """The book narrowed to a margin: its sign and its balance."""
        colours = ink()
        pencilled = row.state is PostingState.PENCILLED
        colour = colours.of("pencil" if pencilled else "ink")
        sign = QPointF(box.left() + 17, box.center().y())
        draw_posting_sign(painter, sign, None if row.opens else row.state, colour)
        font = scaled_font(1.0, bold=True)
        painter.setFont(font)
        baseline = box.center().y() + QFontMetrics(font).ascent() / 2 - 1
        _amount(painter, box, 0, baseline, words.balance, "ink")
        painter.setPen(QPen(colours.of("faint"), 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())

    def _paint_balance(self, painter: QPainter, box: QRect, page: BookPage) -> None:
        colours = ink()
        painter.setPen(QPen(colours.of("ink"), 1.4))
        painter.drawLine(box.topLeft(), box.topRight())
        painter.setFont(scaled_font(1.0, bold=True))
        metrics = painter.fontMetrics()
        baseline = box.top() + 10 + metrics.ascent()
        painter.setPen(colours.of("ink"))
        if box.width() >= NARROW:
            painter.drawText(QPointF(box.left() + SIGN_WIDTH, baseline), say("Balance"))
            _amount(painter, box, 2, baseline, total_saved(page), "saved")
            _amount(painter, box, 1, baseline, total_lost(page), "lost")
        balance = closing(page)
        _amount(painter, box, 0, baseline, balance, "ink")
        if not balance:
            return
        painter.setPen(QPen(colours.of("ink"), 1))
        right = box.right() - MARGIN
        left = right - max(metrics.horizontalAdvance(balance), column_width() - 12)
        for below in (4, 7):
            painter.drawLine(QPointF(left, baseline + below), QPointF(right, baseline + below))


def column_width() -> int:
    """Width of one amount column."""
    return QFontMetrics(scaled_font(1.0, bold=True)).horizontalAdvance("0" * COLUMN_CHARACTERS)


@dataclass(frozen=True)
class _Laid:
    """The words of a row in lines, as they fit."""

    particulars: list[str]
    remark: list[str]


def _laid(words: RowWords, wide: int, font: QFont, whole: bool) -> _Laid:
    """Words in lines, cut to a few unless they are wanted ``whole``."""
    return _kept_laid(words, wide, font.toString(), scaled_font(0.84).toString(), whole)


@lru_cache(maxsize=512)
def _kept_laid(words: RowWords, wide: int, font: str, small_font: str, whole: bool) -> _Laid:
    """The same by the fonts' own names, so that it is laid out once."""
    metrics, small = (QFontMetrics(_font_of(name)) for name in (font, small_font))
    room = wide - SIGN_WIDTH - MARGIN
    beside = room - _columns_used(words) * column_width()
    return _Laid(
        _wrapped(words.particulars, metrics, beside, None if whole else MOST_LINES),
        _wrapped(words.remark, small, room, None if whole else 1),
    )


def _font_of(name: str) -> QFont:
    font = QFont()
    font.fromString(name)
    return font


def _wrapped(text: str, metrics: QFontMetrics, room: int, most: int | None) -> list[str]:
    """Words in as few lines as they take; no more than ``most``, then the last is cut."""
    lines, line = [], ""
    for word in text.split(" "):
        longer = f"{line} {word}".strip()
        if line and metrics.horizontalAdvance(longer) > room:
            lines.append(line)
            line = word
        else:
            line = longer
    lines.append(line)
    if most is None or len(lines) <= most:
        return lines
    rest = " ".join(lines[most - 1 :])
    return [*lines[: most - 1], metrics.elidedText(rest, Qt.TextElideMode.ElideRight, room)]


def _columns_used(words: RowWords) -> int:
    return 3 if words.saved else 2 if words.lost else 1


def _amount(
    painter: QPainter, box: QRect, column: int, baseline: float, text: str, colour: str
) -> None:
    """Right-aligned in the ``column``-th column from the right."""
    painter.setPen(ink().of(colour))
    right = box.right() - MARGIN - column * column_width()
    painter.drawText(QPointF(right - painter.fontMetrics().horizontalAdvance(text), baseline), text)


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
        self._step = NextStepKind.RECORD_OPENING
        self.by_restart = False
        """Recording this PC is arming the recorder and restarting."""
        self.model = BookModel()
        self.lines = QListView()
        self.lines.setModel(self.model)
        self.lines.setItemDelegate(BookDelegate(self.lines))
        self.lines.setResizeMode(QListView.ResizeMode.Adjust)
        self.lines.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.lines.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.lines.setAccessibleName(say("The book"))
        self.lines.selectionModel().currentChanged.connect(self._line_chosen)
        self.measure = QComboBox()
        self.measure.setProperty("flat", True)
        self.measure.setAccessibleName(say("Book kept in"))
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
        self.button.clicked.connect(lambda: self.next_wanted.emit(self._step))
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
        self._beyond_margin: list[QWidget] = [_quiet(say("Book kept in")), self.measure]
        for widget in self._beyond_margin:
            row.addWidget(widget)
        row.addStretch(1)
        for title in (say("Saved"), say("Lost"), say("Balance")):
            heading = _quiet(title)
            heading.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            heading.setFixedWidth(column_width() - 4)
            row.addWidget(heading)
            self._beyond_margin.append(heading)
        self._beyond_margin.pop()  # the balances stay
        layout.addWidget(head)
        layout.addWidget(self.lines, 1)
        foot = named("bookFoot")
        row = QHBoxLayout(foot)
        row.setContentsMargins(MARGIN, 9, MARGIN, 9)
        words = QVBoxLayout()
        words.setSpacing(1)
        words.addWidget(_quiet(say("Next")))
        words.addWidget(self._sentence)
        row.addLayout(words, 1)
        row.addWidget(self.button, 0, Qt.AlignmentFlag.AlignVCenter)
        layout.addWidget(foot)
        self._beyond_margin.append(foot)
        self.setMinimumWidth(MARGIN_WIDTH)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Narrowed to a margin, it shows the balances alone."""
        super().resizeEvent(event)
        for widget in self._beyond_margin:
            widget.setVisible(self.width() >= NARROW)
        self.lines.scheduleDelayedItemsLayout()  # a line is as high as its words, at this width

    def refresh(self) -> None:
        """Show the job as it is now."""
        job = self._desk.job
        if job is None:
            self.model.show_page(None)
            return
        page = book_page(job, self._desk.measure, self._desk.expected)
        self._step, self.by_restart = page.step.step, page.by_restart
        self.model.show_page(page)
        self._sentence.setText(next_sentence(page))
        self.button.setText(next_button(page))
        self.measure.setCurrentIndex(self.measure.findData(self._desk.measure))
        self._show_line()

    def _show_line(self) -> None:
        index = self.model.index(self._desk.line)
        if index.isValid() and self.lines.currentIndex().row() != index.row():
            self.lines.setCurrentIndex(index)

    def _line_chosen(self, current: QModelIndex, _before: QModelIndex) -> None:
        if current.isValid():
            self.lines.doItemsLayout()  # the selected line shows all its words
            self.lines.scrollTo(current)
            self._desk.select_line(current.row())


def _quiet(text: str) -> QLabel:
    label = Text(text)
    label.setProperty("quiet", True)
    return label
