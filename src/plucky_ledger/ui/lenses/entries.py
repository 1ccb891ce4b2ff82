"""The Entries lens: what starts by itself, what it costs, what is decided, what that would win."""

from collections.abc import Callable
from html import escape

from PySide6.QtCore import QItemSelectionModel, QSize, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableView,
    QVBoxLayout,
)

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.job.entry_states import DECISION_OF, pencilled_states
from plucky_ledger.pages.entries import (
    DecidedChoice,
    EntriesPage,
    EntryRow,
    entries_at_once,
    entries_page,
)
from plucky_ledger.ui.deciding import Deciding
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.drawing.stamp import stamp_width
from plucky_ledger.ui.lenses.entries_list import EntriesModel, EntryDelegate, ListedEntry
from plucky_ledger.ui.lenses.entry_card import EntryCard
from plucky_ledger.ui.lenses.entry_filter import EntryFilter
from plucky_ledger.ui.lenses.headed_model import prepare
from plucky_ledger.ui.lenses.lens import Lens
from plucky_ledger.ui.text import FoldButton, Marked, Text
from plucky_ledger.ui.theme import digits_wide, named
from plucky_ledger.usecases.changing.control import possible_states
from plucky_ledger.usecases.changing.decisions import give_reason, write_finding
from plucky_ledger.usecases.changing.switching import look
from plucky_ledger.usecases.jobs.opening import Ledger
from plucky_ledger.wording.basis import Basis, of_entry
from plucky_ledger.wording.entries import (
    entry_in_words,
    legend,
    looked_in_words,
    note,
    plan_in_words,
    system_line,
)
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say

LIST_DIGITS = 62
"""The least width of the list beside the card, in digits."""
_InWords = tuple[EntriesPage, tuple[ListedEntry, ...]]
"""A page with the words of its rows, which are found off the window's thread as well."""


def _in_words(page: EntriesPage) -> _InWords:
    rows = (*page.rows, *page.system_rows)
    return page, tuple(ListedEntry(row, entry_in_words(row)) for row in rows)


class EntriesLens(Lens):
    """A list of entries, the costliest first, a card that explains one, and the running plan.

    Signals:
        post_wanted(): the plan's button was pressed.
        lane_wanted(str): the lane of this entry is to be seen.
    """

    post_wanted = Signal()
    lane_wanted = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._page: EntriesPage | None = None
        self._listed: tuple[ListedEntry, ...] = ()
        """All rows with their words, parts of the system last."""
        self._made_for: tuple[int, tuple[Boot, ...]] | None = None
        """Job and boots that the costs in ``_page`` are of."""
        self._listed_for: tuple[int, tuple[Boot, ...]] | None = None
        """Job and boots whose entries are listed, with their costs or without yet."""
        self._deciding = Deciding(desk)
        self._off_for_good_when_listed = False
        self._to_choose = ""
        """An entry to go to as soon as it is listed."""
        self.model = EntriesModel()
        self.table = QTableView()
        self._prepare_table()
        self.fold = FoldButton()
        self.fold.toggled.connect(self._fill)
        self._note = Text()
        self._note.setWordWrap(True)
        self._note.setProperty("quiet", True)
        self.show_all_button = QPushButton(say("Show all entries"))
        self.show_all_button.clicked.connect(self._show_all)
        self._looked = Text()
        self._looked.setWordWrap(True)
        self._looked.setProperty("quiet", True)
        self._legend = Text()
        self._legend.setWordWrap(True)
        self._legend.setProperty("quiet", True)
        self.card = EntryCard()
        self.card.state_chosen.connect(self._set_exactly)
        self.card.reason_given.connect(self._keep_reason)
        self.card.finding_given.connect(self._keep_finding)
        self.filter = EntryFilter()
        self.filter.changed.connect(self._fill)
        self._plan = Marked()
        self._plan.setWordWrap(True)
        self.post_button = QPushButton(say("Post…"))
        self.post_button.setProperty("main", True)
        self.post_button.clicked.connect(self.post_wanted)
        self._lay_out()

    def _prepare_table(self) -> None:
        table = self.table
        prepare(table, self.model, say("Startup entries"))
        table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self._delegate = EntryDelegate(self.model)
        table.setItemDelegate(self._delegate)
        row_height = self._delegate.sizeHint(None, None).height()  # type: ignore[arg-type]
        table.verticalHeader().setDefaultSectionSize(row_height)
        header = table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        stamps = stamp_width(label(decision) for decision in Decision)
        for column, width in ((1, digits_wide(19)), (2, digits_wide(9)), (3, stamps)):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            table.setColumnWidth(column, width)
        table.selectionModel().currentRowChanged.connect(self._show_card)
        table.doubleClicked.connect(
            lambda index: self.lane_wanted.emit(self.model.rows[index.row()].row.entry.entry_id)
        )

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setContentsMargins(14, 8, 8, 4)
        left.setSpacing(4)
        left.addWidget(self.filter)
        left.addWidget(self.table, 1)
        left.addWidget(self._note)
        left.addWidget(self.show_all_button, 0, Qt.AlignmentFlag.AlignLeft)
        left.addWidget(self.fold, 0, Qt.AlignmentFlag.AlignLeft)
        left.addWidget(self._looked)
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

    def minimumSizeHint(self) -> QSize:
        """That of the list: the card gives way."""
        wanted = super().minimumSizeHint()
        hidden = self.card.isHidden()
        return wanted if hidden else wanted - QSize(self.card.minimumWidth(), 0)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Where there is no room for both, the list stays."""
        super().resizeEvent(event)
        self._show_or_hide_card()

    def _show_or_hide_card(self) -> None:
        beside = self.width() >= digits_wide(LIST_DIGITS) + self.card.minimumWidth()
        self.card.setVisible(bool(self.model.rows) and beside)

    # Reading and showing.

    @property
    def ready(self) -> bool:
        """Whether what is shown is of the job and line selected now."""
        return self._page is not None and self._made_for == self._wanted()

    def _wanted(self) -> tuple[int, tuple[Boot, ...]] | None:
        job = self._desk.job
        return (job.number, self._desk.boots) if job is not None else None

    def refresh(self) -> None:
        """Show the selected line's entries at once, and what they cost as soon as it is known."""
        query = self._wanted()
        if query is None:
            return
        number, boots = query
        shop = self._desk.workshop
        if query not in (self._made_for, self._listed_for):
            self._show_waiting()
            self._listed_for = query

            def at_once() -> _InWords:
                return _in_words(
                    entries_at_once(shop.ledger, number, boots, shop.analyses, shop.memory)
                )

            def listed(found: _InWords) -> None:
                if query == self._listed_for and not self.ready:
                    self._take(*found)

            self._desk.executor.ask("entries at once", at_once, listed)

        def work() -> _InWords:
            return _in_words(entries_page(shop.ledger, number, boots, shop.costs, shop.memory))

        def answer(found: _InWords) -> None:
            self._made_for = query
            self._take(*found)
            if self._off_for_good_when_listed:
                self.switch_off_for_good()

        self._desk.executor.work_out("entries", work, answer)

    def _take(self, page: EntriesPage, listed: tuple[ListedEntry, ...]) -> None:
        self._page, self._listed = page, listed
        self._fill()

    def _show_waiting(self) -> None:
        self._page, self._made_for = None, None
        self.model.show_rows((), 1.0)
        self._note.setText(say("Reading the entries…"))
        self._note.show()
        for widget in (
            self.card,
            self._foot,
            self.fold,
            self._looked,
            self._legend,
            self.show_all_button,
        ):
            widget.setVisible(False)

    def _fill(self) -> None:
        page = self._page
        if page is None:
            return
        selected_ids = {row.entry.entry_id for row in self.selected}
        current = self.current.entry.entry_id if self.current else ""
        if self._to_choose in {row.entry.entry_id for row in (*page.rows, *page.system_rows)}:
            selected_ids, current, self._to_choose = {self._to_choose}, self._to_choose, ""
            self._open_for(current, page)
        self.model.show_rows(self._rows(), page.most_seconds)
        self._select(selected_ids, current)
        hidden = self.filter.is_on and bool(self._listed) and not self.model.rows
        sentence = say("No entry matches the filters above.") if hidden else note(page)
        self.show_all_button.setVisible(hidden)
        self._note.setText(sentence)
        self._note.setVisible(bool(sentence))
        self.fold.show_text(system_line(page))
        self.fold.setVisible(bool(page.system_rows))
        looked = looked_in_words(page.looked)
        self._looked.setText(looked)
        self._looked.setVisible(bool(looked))
        self._legend.setText(legend(page.thresholds))
        self._legend.setVisible(bool(self.model.rows))
        self._show_or_hide_card()
        bold, rest = plan_in_words(page)
        self._plan.setText((f"<b>{escape(bold)}</b> · " if bold else "") + escape(rest))
        self._foot.setVisible(bool(self._listed))
        self.post_button.setVisible(bool(page.pencilled))
        self.post_button.setEnabled(self._desk.writable)
        self._show_card()

    def _show_all(self) -> None:
        self.filter.ask_for_all()
        self._fill()
        self.filter.search.setFocus()

    def _open_for(self, entry_id: str, page: EntriesPage) -> None:
        """Have an entry in sight, whatever was asked for before."""
        self.filter.ask_for_all()
        if any(row.entry.entry_id == entry_id for row in page.system_rows):
            self.fold.blockSignals(True)
            self.fold.setChecked(True)
            self.fold.blockSignals(False)

    def _rows(self) -> tuple[ListedEntry, ...]:
        """The rows that fit what is asked for."""
        return tuple(
            listed
            for listed in self._listed
            if (self.fold.isChecked() or not listed.row.entry.part_of_system)
            and self.filter.fits(listed)
        )

    def _select(self, known: set[str], current: str) -> None:
        """Keep the selection where the entries are still in sight; otherwise the first.

        While their costs are being worked out none is chosen of itself: the order is about to
        change, and a key pressed then would decide about another entry than the costliest.
        """
        rows = [listed.row.entry.entry_id for listed in self.model.rows]
        if not rows or (not self.ready and not current):
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
        row, job = self.current, self._desk.job
        self.card.show_row(row)
        if row is None or job is None:
            return
        ledger, number, entry_id = self._desk.ledger, job.number, row.entry.entry_id

        def looked(found: Switchable | None) -> None:
            now = self.current
            if now is not None and now.entry.entry_id == entry_id:
                self.card.show_states(found, self._pencilled_state(entry_id))

        self._desk.executor.ask_the_pc("look", lambda: look(ledger, number, entry_id), looked)

    def _pencilled_state(self, entry_id: str) -> EntryState | None:
        job = self._desk.job
        return pencilled_states(job).get(entry_id) if job is not None else None

    @property
    def current(self) -> EntryRow | None:
        """The row the keyboard is on."""
        index = self.table.currentIndex().row()
        return self.model.rows[index].row if 0 <= index < len(self.model.rows) else None

    @property
    def selected(self) -> tuple[EntryRow, ...]:
        """The rows selected."""
        rows = sorted(index.row() for index in self.table.selectionModel().selectedRows())
        return tuple(self.model.rows[row].row for row in rows if row < len(self.model.rows))

    @property
    def basis(self) -> Basis | None:
        """What the cost of the entry the keyboard is on rests on; None without one."""
        row = self.current
        return of_entry(row.entry.name, row.cost) if row is not None else None

    def choose(self, entry_id: str) -> None:
        """Go to an entry, wherever it is folded away or left out by what is asked for."""
        self._to_choose = entry_id
        self._fill()

    def show_only(self, choice: DecidedChoice) -> None:
        """Only the entries that something was decided about so."""
        self.filter.show_only(choice)

    # Deciding.

    def _set_exactly(self, state: EntryState) -> None:
        """Decide about the entry on the card, as it is to be set exactly."""
        self.decide(DECISION_OF[state], state)

    def decide(self, decision: Decision, state: EntryState | None = None) -> None:
        """Decide about the selected entries."""
        self._deciding.decide([row.entry for row in self.selected], decision, state)

    def switch_off_for_good(self) -> None:
        """Decide so about the entries that came back, as soon as they are listed: those that can
        be set so; the rest stays to be looked at.
        """
        self.show_only(DecidedChoice.CAME_BACK)
        if not self.ready:
            self._off_for_good_when_listed = True
            return
        self._off_for_good_when_listed = False
        job, ledger = self._desk.job, self._desk.ledger
        entries = [listed.row.entry for listed in self.model.rows]
        if job is None or not entries:
            return
        number = job.number

        def ask() -> list[StartupEntry]:
            state = EntryState.OFF_FOR_GOOD
            return [e for e in entries if state in possible_states(ledger, number, e.entry_id)]

        def looked(found: list[StartupEntry]) -> None:
            if found:
                self._deciding.decide(found, Decision.OFF, EntryState.OFF_FOR_GOOD)
            else:
                self._desk.door.say(
                    say("None of these can be switched off for good here: see what starts them.")
                )

        self._desk.executor.ask_the_pc("off for good", ask, looked)

    def ask_reason(self) -> None:
        """To the reason on the card."""
        self.card.reason.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.card.reason.selectAll()

    def _keep_reason(self, reason: str) -> None:
        job, rows = self._desk.job, self.selected
        if job is not None and rows:
            entries, number = [row.entry for row in rows], job.number
            self._back_to_list(lambda ledger: give_reason(ledger, number, entries, reason))

    def _keep_finding(self, finding: str) -> None:
        job, row = self._desk.job, self.current
        if job is not None and row is not None:
            number, entry_id = job.number, row.entry.entry_id
            self._back_to_list(lambda ledger: write_finding(ledger, number, entry_id, finding))

    def _back_to_list(self, step: Callable[[Ledger], None]) -> None:
        self.table.setFocus()
        self._desk.do(step)
