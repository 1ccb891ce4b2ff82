"""The Entries lens: what starts by itself, what it costs, what is decided, what that would win."""

from collections.abc import Callable
from html import escape

from PySide6.QtCore import QItemSelectionModel, Qt, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.pages.entries import (
    DECIDED,
    KINDS,
    OWNERS,
    EntriesData,
    EntriesPage,
    EntryRow,
    entries_data,
    entries_page,
    filtered,
)
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lenses.entries_list import EntriesModel, EntryDelegate
from plucky_ledger.ui.lenses.entry_card import EntryCard
from plucky_ledger.ui.theme import named
from plucky_ledger.usecases.decisions import decide, give_reason, write_finding


class EntriesLens(QWidget):
    """A list of entries, the costliest first, a card that explains one, and the running plan.

    Signals:
        post_wanted(): the plan's button was pressed.
    """

    post_wanted = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._data: EntriesData | None = None
        self._page: EntriesPage | None = None
        self._made_for: tuple[int, tuple[Boot, ...]] | None = None
        """Job and boots that the costs in ``_data`` are of."""
        self._asked = 0
        """Number of the last question to the readers: older answers are dropped."""
        self._refused: tuple[Decision, frozenset[str]] | None = None
        """A decision about a guarded entry that has to be taken once more."""
        self.model = EntriesModel()
        self.table = QTableView()
        self._prepare_table()
        self.fold = QPushButton()
        self.fold.setCheckable(True)
        self.fold.setProperty("fold", True)
        self.fold.toggled.connect(self._fill)
        self._note = QLabel()
        self._note.setWordWrap(True)
        self._note.setProperty("quiet", True)
        self._legend = QLabel()
        self._legend.setProperty("quiet", True)
        self.card = EntryCard()
        self.card.reason_given.connect(self._keep_reason)
        self.card.finding_given.connect(self._keep_finding)
        self.search = QLineEdit()
        self.search.setPlaceholderText("find an entry")
        self.search.setAccessibleName("Find an entry")
        self.search.textChanged.connect(self._fill)
        self.kind, self.owner, self.decided = (
            self._chooser(name, choices)
            for name, choices in (("Kind", KINDS), ("Whose", OWNERS), ("Decided", DECIDED))
        )
        self._plan = QLabel()
        self._plan.setWordWrap(True)
        self._plan.setTextFormat(Qt.TextFormat.RichText)
        self.post_button = QPushButton("Post…")
        self.post_button.setProperty("main", True)
        self.post_button.clicked.connect(self.post_wanted)
        self._lay_out()

    def _prepare_table(self) -> None:
        table = self.table
        table.setModel(self.model)
        table.setAccessibleName("Startup entries")
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        table.setShowGrid(False)
        table.setTabKeyNavigation(False)
        table.verticalHeader().hide()
        self._delegate = EntryDelegate(self.model)
        table.setItemDelegate(self._delegate)
        row_height = self._delegate.sizeHint(None, None).height()  # type: ignore[arg-type]
        table.verticalHeader().setDefaultSectionSize(row_height)
        header = table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column, width in ((1, 152), (2, 70), (3, 106)):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            table.setColumnWidth(column, width)
        table.selectionModel().currentRowChanged.connect(self._show_card)

    def _chooser(self, name: str, choices: tuple[str, ...]) -> QComboBox:
        box = QComboBox()
        box.addItems(choices)
        box.setItemText(0, f"{name.lower()}: all")
        box.setAccessibleName(name)
        box.setProperty("flat", True)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(7)
        box.view().setMinimumWidth(150)
        box.currentIndexChanged.connect(self._fill)
        return box

    def _lay_out(self) -> None:
        choice = QHBoxLayout()
        choice.setSpacing(10)
        self.search.setMinimumWidth(110)
        choice.addWidget(self.search, 1)
        for box in (self.kind, self.owner, self.decided):
            choice.addWidget(box)
        left = QVBoxLayout()
        left.setContentsMargins(14, 8, 8, 4)
        left.setSpacing(4)
        left.addLayout(choice)
        left.addWidget(self.table, 1)
        left.addWidget(self._note)
        left.addWidget(self.fold, 0, Qt.AlignmentFlag.AlignLeft)
        left.addWidget(self._legend)
        pages = QHBoxLayout()
        pages.setSpacing(0)
        pages.addLayout(left, 1)
        pages.addWidget(self.card)
        self._foot = named("plan")
        self._foot.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self._foot)
        row.setContentsMargins(12, 7, 10, 7)
        row.addWidget(self._plan, 1)
        row.addWidget(self.post_button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(pages, 1)
        foot = QHBoxLayout()
        foot.setContentsMargins(14, 0, 14, 10)
        foot.addWidget(self._foot)
        layout.addLayout(foot)

    # Reading and showing.

    @property
    def ready(self) -> bool:
        """Whether what is shown is of the job and line selected now."""
        return self._page is not None and self._made_for == self._wanted()

    def _wanted(self) -> tuple[int, tuple[Boot, ...]] | None:
        job = self._desk.job
        return (job.number, self._desk.boots) if job is not None else None

    def refresh(self) -> None:
        """Read what is known of the selected line's entries, and show it once it is there."""
        job, wanted = self._desk.job, self._wanted()
        if job is None or wanted is None:
            return
        if wanted != self._made_for:
            self._show_waiting()
        self._asked += 1
        number, desk, boots = self._asked, self._desk, wanted[1]

        def answer(data: EntriesData) -> None:
            if number == self._asked:
                self._data, self._page, self._made_for = data, entries_page(data), wanted
                self._fill()

        desk.work_out(lambda: entries_data(desk.ledger, job, boots, desk.costs), answer)

    def _show_waiting(self) -> None:
        self._page = None
        self.model.show_rows((), 1.0)
        self._note.setText("Working out what each entry costs…")
        self._note.show()
        for widget in (self.card, self._foot, self.fold, self._legend):
            widget.setVisible(False)

    def _fill(self) -> None:
        page = self._page
        if page is None:
            return
        known = {row.entry.entry_id for row in self.selected}
        current = self.current.entry.entry_id if self.current else ""
        self.model.show_rows(self._rows(page), page.most_seconds)
        self._select(known, current)
        self._note.setText(page.note)
        self._note.setVisible(bool(page.note))
        self.fold.setText(f"{'▾' if self.fold.isChecked() else '▸'} {page.system_line}")
        self.fold.setVisible(bool(page.system_rows))
        self._legend.setText(page.legend)
        self._legend.setVisible(bool(self.model.rows))
        self.card.setVisible(bool(self.model.rows))
        strong = f"<b>{escape(page.plan_strong)}</b> · " if page.plan_strong else ""
        self._plan.setText(strong + escape(page.plan))
        self._foot.setVisible(bool(page.rows or page.system_rows))
        writable = not self._desk.ledger.read_only_because
        self.post_button.setVisible(bool(self._data and self._data.pencilled))
        self.post_button.setEnabled(writable)
        self._show_card()

    def _rows(self, page: EntriesPage) -> tuple[EntryRow, ...]:
        choices = [
            values[box.currentIndex()]
            for box, values in ((self.kind, KINDS), (self.owner, OWNERS), (self.decided, DECIDED))
        ]
        rows = page.rows + (page.system_rows if self.fold.isChecked() else ())
        return filtered(rows, self.search.text(), *choices)

    def _select(self, known: set[str], current: str) -> None:
        """Keep the selection where the entries are still in sight; otherwise the first."""
        rows = [row.entry.entry_id for row in self.model.rows]
        if not rows:
            return
        selection = self.table.selectionModel()
        at = rows.index(current) if current in rows else 0
        rest = QItemSelectionModel.SelectionFlag.Rows
        selection.setCurrentIndex(
            self.model.index(at, 0), QItemSelectionModel.SelectionFlag.ClearAndSelect | rest
        )
        for index, entry_id in enumerate(rows):
            if entry_id in known:
                selection.select(
                    self.model.index(index, 0), QItemSelectionModel.SelectionFlag.Select | rest
                )

    def _show_card(self) -> None:
        self.card.show_row(self.current)

    @property
    def current(self) -> EntryRow | None:
        """The row the keyboard is on."""
        index = self.table.currentIndex().row()
        return self.model.rows[index] if 0 <= index < len(self.model.rows) else None

    @property
    def selected(self) -> tuple[EntryRow, ...]:
        """The rows selected."""
        rows = sorted(index.row() for index in self.table.selectionModel().selectedRows())
        return tuple(self.model.rows[row] for row in rows if row < len(self.model.rows))

    # Deciding.

    def decide(self, decision: Decision) -> None:
        """Decide about the selected entries; about guarded ones only the second time."""
        job, entries = self._desk.job, [row.entry for row in self.selected]
        if job is None or not entries:
            self._desk.say("Select an entry first.")
            return
        what = (decision, frozenset(entry.entry_id for entry in entries))
        deliberate, self._refused = what == self._refused, what
        self._desk.do(lambda ledger: decide(ledger, job, entries, decision, "", deliberate))

    def ask_reason(self) -> None:
        """To the reason on the card."""
        self.card.reason.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.card.reason.selectAll()

    def _keep_reason(self, reason: str) -> None:
        job, rows = self._desk.job, self.selected
        if job is not None and rows:
            entries = [row.entry for row in rows]
            self._back_to_list(lambda ledger: give_reason(ledger, job, entries, reason))

    def _keep_finding(self, finding: str) -> None:
        job, row = self._desk.job, self.current
        if job is not None and row is not None:
            self._back_to_list(
                lambda ledger: write_finding(ledger, job, row.entry.entry_id, finding)
            )

    def _back_to_list(self, step: Callable[[Ledger], None]) -> None:
        self.table.setFocus()
        self._desk.do(step)
