"""Paints the lines of the book, at any width."""

from PySide6.QtCore import QPointF, QRect, QRectF, QSize
from PySide6.QtGui import QFontMetrics, QPainter, QPen
from PySide6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.values.axes import Span
from plucky_ledger.pages.book import BookPage, BookRow
from plucky_ledger.ui.book.book_model import BookModel, Index
from plucky_ledger.ui.book.line_layout import (
    MARGIN,
    SIGN_WIDTH,
    column_width,
    laid_out,
    margin_width,
    narrow,
    narrowest,
)
from plucky_ledger.ui.drawing.dot_strip import draw_dots, draw_expected
from plucky_ledger.ui.drawing.posting_sign import draw_posting_sign
from plucky_ledger.ui.drawing.reading_order import begins_at, write
from plucky_ledger.ui.theme import ink, scaled_font
from plucky_ledger.wording.book import RowWords, closing, total_lost, total_saved
from plucky_ledger.wording.language import say


class BookDelegate(QStyledItemDelegate):
    """Paints a line: sign, particulars, dot strip, remark, and the three amounts."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        model = index.model()
        assert isinstance(model, BookModel)
        height = QFontMetrics(scaled_font(1.0, bold=True)).height()
        small = QFontMetrics(scaled_font(0.84)).height()
        if model.row(index) is None:
            return QSize(margin_width(), height + 22)
        view = self.parent()
        wide = view.viewport().width() if isinstance(view, QListView) else 200
        if wide < narrowest():
            return QSize(margin_width(), height + 22)
        whole = isinstance(view, QListView) and view.currentIndex().row() == index.row()
        laid = laid_out(model.words[index.row()], wide, scaled_font(1.0, bold=True), whole)
        if wide < narrow():
            return QSize(margin_width(), len(laid.particulars) * height + 16)
        return QSize(margin_width(), len(laid.particulars) * height + len(laid.remark) * small + 32)

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
                left = round(begins_at(box, 0, 4))
                painter.fillRect(left, box.top(), 4, box.height(), colours.of("saved"))
        row = model.row(index)
        if row is None:
            self._paint_balance(painter, box, model.page)
        elif box.width() < narrowest():
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
            QPointF(begins_at(box, 17), top + metrics.height() / 2),
            None if row.opens else row.state,
            colour,
        )
        painter.setFont(font)
        painter.setPen(colour)
        baseline = top + metrics.ascent()
        laid = laid_out(words, box.width(), font, selected)
        for number, line in enumerate(laid.particulars):
            write(painter, box, SIGN_WIDTH, baseline + number * metrics.height(), line)
        painter.setFont(scaled_font(1.0, bold=True))
        _amount(painter, box, 0, baseline, words.balance, "ink")
        if box.width() < narrow():
            return
        font.setStrikeOut(False)
        painter.setFont(font)
        _amount(painter, box, 2, baseline, words.saved, "saved")
        _amount(painter, box, 1, baseline, words.lost, "lost")
        wide = box.width() - SIGN_WIDTH - MARGIN - 2.4 * width
        strip = QRectF(
            begins_at(box, SIGN_WIDTH, wide),
            top + len(laid.particulars) * metrics.height() + 4,
            wide,
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
            write(painter, box, SIGN_WIDTH, below + number * small.height(), line)

    @staticmethod
    def _paint_margin(painter: QPainter, box: QRect, row: BookRow, words: RowWords) -> None:
        """The book narrowed to a margin: its sign and its balance."""
        colours = ink()
        pencilled = row.state is PostingState.PENCILLED
        colour = colours.of("pencil" if pencilled else "ink")
        sign = QPointF(begins_at(box, 17), box.center().y())
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
        if box.width() >= narrowest():
            write(painter, box, SIGN_WIDTH, baseline, say("Balance"))
        if box.width() >= narrow():
            _amount(painter, box, 2, baseline, total_saved(page), "saved")
            _amount(painter, box, 1, baseline, total_lost(page), "lost")
        balance = closing(page)
        _amount(painter, box, 0, baseline, balance, "ink")
        if not balance:
            return
        painter.setPen(QPen(colours.of("ink"), 1))
        wide = max(metrics.horizontalAdvance(balance), column_width() - 12)
        left = begins_at(box, box.width() - MARGIN - wide, wide)
        for below in (4, 7):
            y = baseline + below
            painter.drawLine(QPointF(left, y), QPointF(left + wide, y))


def _amount(
    painter: QPainter, box: QRect, column: int, baseline: float, text: str, colour: str
) -> None:
    """Ending with the ``column``-th column from the end of the line."""
    painter.setPen(ink().of(colour))
    end = box.width() - MARGIN - column * column_width()
    write(painter, box, end, baseline, text, ends=True)
