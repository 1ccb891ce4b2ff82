"""The Load lens: who used CPU, memory, disk and processes."""

from dataclasses import dataclass, replace
from html import escape
from typing import Any

from PySide6.QtCore import QRectF, QSortFilterProxyModel, Qt
from PySide6.QtGui import QBrush, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.pages.load import By, LoadAnswer, LoadQuestion, LoadRow, Span, load_answer
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lenses.headed_model import ROW_ROLE, HeadedModel, Index
from plucky_ledger.ui.lenses.span_brush import SpanBrush
from plucky_ledger.ui.stopping import stop_row
from plucky_ledger.ui.text import Marked, Text, tip
from plucky_ledger.ui.theme import choice_button, ink
from plucky_ledger.usecases.programs_set_aside import bring_program_back, set_program_aside
from plucky_ledger.usecases.stock_profiles import save_stock_profile
from plucky_ledger.wording.language import N_, say
from plucky_ledger.wording.load import (
    LoadWords,
    choice,
    load_in_words,
    nothing_watched,
    stock_in_words,
    summary,
    sums_in_words,
)
from plucky_ledger.wording.safe import shown

HEADINGS = (N_("who"), N_("CPU·s"), N_("memory held"), N_("read"), N_("processes"))
AMOUNT_ROLE = Qt.ItemDataRole.UserRole + 1
BAR_COLOURS = ("cpu", "memory", "disk", "processes")


@dataclass(frozen=True)
class Listed:
    """A row with its words."""

    row: LoadRow
    words: LoadWords


class LoadModel(HeadedModel):
    """The rows of one page."""

    rows: tuple[Listed, ...]

    def __init__(self) -> None:
        super().__init__(HEADINGS)

    def show_rows(self, rows: tuple[LoadRow, ...]) -> None:
        """Show other rows."""
        self.beginResetModel()
        self.rows = tuple(Listed(row, load_in_words(row)) for row in rows)
        self.endResetModel()

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        listed, column = self.rows[index.row()], index.column()
        words = listed.words
        if role == ROW_ROLE:
            return listed
        if column == 0:
            name = f"{words.name} · {words.remark}" if words.remark else words.name
            texts = {Qt.ItemDataRole.DisplayRole: name, AMOUNT_ROLE: words.name.casefold(),
                     Qt.ItemDataRole.ToolTipRole: tip(words.about)}  # fmt: skip
            return texts.get(Qt.ItemDataRole(role)) if role != AMOUNT_ROLE else texts[AMOUNT_ROLE]
        if role == Qt.ItemDataRole.DisplayRole:
            return words.figures[column - 1]
        if role == AMOUNT_ROLE:
            return tuple(listed.row.amounts)[column - 1]
        return None


class BarDelegate(QStyledItemDelegate):
    """A bar with its figure; hatched for what the measurement itself caused."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        listed: Listed = index.data(ROW_ROLE)
        row = listed.row
        colours = ink()
        box = QRectF(option.rect)
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, colours.of("wash"))
        colour = colours.of(BAR_COLOURS[index.column() - 1])
        colour.setAlpha(130)
        share = row.shares[index.column() - 1]
        bar = QRectF(box.left() + 4, box.top() + 6, (box.width() * 0.5) * share, box.height() - 12)
        pattern = Qt.BrushStyle.BDiagPattern if row.outside else Qt.BrushStyle.SolidPattern
        painter.fillRect(bar, QBrush(colour, pattern))
        painter.setPen(colours.of("pencil" if row.outside else "ink"))
        painter.drawText(
            box.adjusted(0, 0, -10, 0),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            listed.words.figures[index.column() - 1],
        )
        painter.restore()


class LoadLens(QWidget):
    """Shows who used what of the chosen boot."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._question = LoadQuestion()
        self._answer: LoadAnswer | None = None
        self.model = LoadModel()
        self._sorted = QSortFilterProxyModel()
        self._sorted.setSourceModel(self.model)
        self._sorted.setSortRole(AMOUNT_ROLE)
        self._sorted.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.table = QTableView()
        self._prepare_table()
        self.brush = SpanBrush()
        self.brush.chosen.connect(lambda start, end: self._ask(span=(start, end)))
        self._stock, self._summary, self._about = Text(), Text(), Text()
        self._sums = Marked()
        for label in (self._stock, self._summary, self._about):
            label.setWordWrap(True)
        self._summary.setProperty("quiet", True)
        self._search = QLineEdit()
        self._search.setPlaceholderText(say("find a program"))
        self._search.setAccessibleName(say("Find a program"))
        self._search.setMaximumWidth(140)
        self._search.textChanged.connect(self._sorted.setFilterFixedString)
        self.profile = QComboBox()
        self.profile.setProperty("flat", True)
        self.profile.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.profile.setAccessibleName(say("Stock profile to count against"))
        self.profile.activated.connect(
            lambda at: self._ask(profile=self.profile.itemData(at) or "")
        )
        self.text = QLineEdit()
        self.text.setPlaceholderText(say("reason, or the profile's name"))
        self.text.setAccessibleName(say("Reason to set the program aside, or name of the profile"))
        self.aside_button = QPushButton(say("Set aside"))
        self.aside_button.clicked.connect(self._set_aside)
        self.text.returnPressed.connect(self._set_aside)
        self.stop_button = QPushButton(say("Stop now"))
        self.stop_button.setToolTip(
            tip(say("End it as a trial: what that frees, and whether it comes back by itself."))
        )
        self.stop_button.clicked.connect(self._stop_now)
        self.save_button = QPushButton(say("Save as stock profile"))
        self.save_button.clicked.connect(self._save_profile)
        self._lay_out()

    def _prepare_table(self) -> None:
        table = self.table
        table.setModel(self._sorted)
        table.setSortingEnabled(True)
        table.sortByColumn(1, Qt.SortOrder.DescendingOrder)
        table.setAccessibleName(say("Programs and what they used"))
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        table.setShowGrid(False)
        table.setTabKeyNavigation(False)
        table.verticalHeader().hide()
        self._bars = BarDelegate(table)
        header = table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column in range(1, len(HEADINGS)):
            table.setItemDelegateForColumn(column, self._bars)
            table.setColumnWidth(column, 122)
        table.selectionModel().currentRowChanged.connect(self._show_about)

    def _lay_out(self) -> None:
        chooser = QHBoxLayout()
        self._spans, self._bys = QButtonGroup(self), QButtonGroup(self)
        for span in Span:
            button = choice_button(choice(span))
            button.setChecked(span is self._question.span)
            button.clicked.connect(lambda _on, span=span: self._ask(span=span))
            self._spans.addButton(button)
            chooser.addWidget(button)
        chooser.addStretch(1)
        for by in By:
            button = choice_button(choice(by))
            button.setChecked(by is self._question.by)
            button.clicked.connect(lambda _on, by=by: self._ask(by=by))
            self._bys.addButton(button)
            chooser.addWidget(button)
        chooser.addWidget(self._search)
        self._foot = QWidget()
        foot = QHBoxLayout(self._foot)
        foot.setContentsMargins(0, 0, 0, 0)
        foot.addWidget(self.profile)
        foot.addStretch(1)
        foot.addWidget(self.text, 2)
        foot.addWidget(self.aside_button)
        foot.addWidget(self.stop_button)
        foot.addWidget(self.save_button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 6, 14, 10)
        layout.setSpacing(5)
        layout.addLayout(chooser)
        layout.addWidget(self.brush)
        layout.addWidget(self.table, 1)
        for widget in (self._about, self._sums, self._stock, self._summary, self._foot):
            layout.addWidget(widget)

    def _ask(self, **changed: Any) -> None:
        self._question = replace(self._question, **changed)
        if "span" in changed and not isinstance(changed["span"], Span):
            self._spans.setExclusive(False)
            for button in self._spans.buttons():
                button.setChecked(False)
            self._spans.setExclusive(True)
        self.refresh()

    def refresh(self) -> None:
        """Ask about the chosen boot, and show the answer once it is there."""
        job, boot, question = self._desk.job, self._desk.boot, self._question
        if boot is None or job is None:
            self._show_note(say("No boot yet. Record one with Ctrl+R."))
            return
        shop, number = self._desk.workshop, job.number
        self._desk.executor.ask(
            "load",
            lambda: load_answer(shop.ledger, number, boot, shop.analyses, question),
            self._answered,
        )

    def _answered(self, answer: LoadAnswer) -> None:
        self._answer = answer
        self._show(answer)

    def _show_note(self, note: str) -> None:
        self.model.show_rows(())
        for widget in (self.table, self.brush, self._sums, self._stock, self._about, self._foot):
            widget.setVisible(not note)
        self._summary.setText(note)

    def _offer_spans(self, at_rest: bool) -> None:
        """A reading at rest has no startup to be looked at: it is shown whole."""
        asked = self._question.span
        for span, button in zip(Span, self._spans.buttons(), strict=True):
            button.setVisible(span is Span.WHOLE or not at_rest)
            if isinstance(asked, Span):
                button.setChecked(span is (Span.WHOLE if at_rest else asked))

    def _show(self, answer: LoadAnswer) -> None:
        page = answer.page
        self._offer_spans(page.how is How.AT_REST)
        if sentence := nothing_watched(page):
            self._show_note(sentence)
            return
        self._show_note("")
        self.model.show_rows(page.rows)
        self.brush.show_curve(page.curve, page.span, page.settled)
        self._sums.setText(f"<b>{escape(say('In all'))}</b> {escape(sums_in_words(page))}")
        stock = stock_in_words(page)
        self._stock.setText(stock)
        self._stock.setVisible(bool(stock))
        self._summary.setText(summary(page))
        self.profile.clear()
        self.profile.addItem(say("stock profile: none"), "")
        for name in answer.profiles:
            self.profile.addItem(say("against {name}", name=shown(name)), name)
            if name == self._question.profile:
                self.profile.setCurrentIndex(self.profile.count() - 1)
        self.save_button.setEnabled(self._desk.writable)
        self._show_about()

    def _show_about(self) -> None:
        listed: Listed | None = self.table.currentIndex().data(ROW_ROLE)
        self._about.setText(listed.words.about if listed else "")
        self._about.setVisible(listed is not None)
        row = listed.row if listed else None
        known = self._answer.aside if self._answer else {}
        back = row is not None and row.program in known
        self.aside_button.setText(say("Bring back") if back else say("Set aside"))
        may = row is not None and bool(row.program) and not row.measuring
        self.aside_button.setEnabled(may and self._desk.writable)
        job = self._desk.job
        self.stop_button.setVisible(job is not None and job.pc.kind is PcKind.REAL)
        self.stop_button.setEnabled(row is not None and not row.measuring)

    def _stop_now(self) -> None:
        listed: Listed | None = self.table.currentIndex().data(ROW_ROLE)
        if listed is not None:
            self.stop_button.setEnabled(False)
            stop_row(self._desk, listed.row, self._show_about)

    def _set_aside(self) -> None:
        listed: Listed | None = self.table.currentIndex().data(ROW_ROLE)
        job, reason = self._desk.job, self.text.text()
        if listed is None or job is None or not self.aside_button.isEnabled():
            return
        number, program = job.number, listed.row.program
        if self._answer is not None and program in self._answer.aside:
            self._desk.do(lambda ledger: bring_program_back(ledger, number, program))
            return
        self._desk.do(
            lambda ledger: set_program_aside(ledger, number, program, reason),
            lambda _done: self.text.clear(),
        )

    def _save_profile(self) -> None:
        desk, name = self._desk, self.text.text()
        job, analysis = desk.job, desk.analysis(desk.boot)
        if job is not None and analysis is not None:
            number = job.number
            desk.do(
                lambda ledger: save_stock_profile(ledger, number, analysis, name),
                lambda _done: self._saved(name.strip()),
            )

    def _saved(self, name: str) -> None:
        self.text.clear()
        self._ask(profile=name)
