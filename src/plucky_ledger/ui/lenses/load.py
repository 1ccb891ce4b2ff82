"""The Load lens: who used CPU, memory, disk and processes."""

from dataclasses import replace
from html import escape
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.pages.load import By, LoadAnswer, LoadQuestion, Span, load_answer
from plucky_ledger.ui.accessible.announcing import READ_OUT_EVERY_SECONDS, Announcer
from plucky_ledger.ui.beside import BesideOrBelow
from plucky_ledger.ui.choices import ChoiceRow, Chooser
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lenses.headed_model import ROW_ROLE, prepare
from plucky_ledger.ui.lenses.lens import Lens
from plucky_ledger.ui.lenses.load_list import (
    ListedProgram,
    LoadDelegate,
    LoadModel,
    LoadOrder,
    in_words,
)
from plucky_ledger.ui.lenses.span_brush import SpanBrush
from plucky_ledger.ui.now import Now
from plucky_ledger.ui.saving_pictures import offer_alone
from plucky_ledger.ui.search_field import SearchField
from plucky_ledger.ui.searching import open_search
from plucky_ledger.ui.stopping import stop_row
from plucky_ledger.ui.text import Marked, Text, explain
from plucky_ledger.ui.theme import digits_wide
from plucky_ledger.usecases.changing.programs_set_aside import bring_program_back, set_program_aside
from plucky_ledger.usecases.jobs.opening import Ledger
from plucky_ledger.usecases.reading.search import look_up_program, search_address
from plucky_ledger.usecases.reading.stock_profiles import save_stock_profile
from plucky_ledger.wording.basis import Basis, of_load
from plucky_ledger.wording.language import say
from plucky_ledger.wording.load import (
    choice,
    nothing_watched,
    put_on_the_list,
    stock_in_words,
    summary,
    summary_of_now,
    sums_in_words,
)
from plucky_ledger.wording.safe import shown


class LoadLens(Lens):
    """Shows who used what of the chosen boot.

    Signals:
        entry_wanted(str): the entry of a row is to be seen.
    """

    entry_wanted = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._question = LoadQuestion()
        self._answer: LoadAnswer | None = None
        self.now = Now(desk)
        self.now.read.connect(self.refresh)
        self.now.changed.connect(self._show_pause)
        self.model = LoadModel()
        self._sorted = LoadOrder(self.model)
        self.table = QTableView()
        self._prepare_table()
        self.brush = SpanBrush()
        offer_alone(desk, self.brush)
        self.brush.chosen.connect(lambda start, end: self._ask(span=(start, end)))
        self._stock, self._summary, self._about = Text(), Text(), Text()
        self._sums = Marked()
        self._figures = Announcer(self._sums, READ_OUT_EVERY_SECONDS)
        for label in (self._stock, self._summary, self._about, self._sums):
            label.setWordWrap(True)
        self._summary.setProperty("quiet", True)
        self.search = SearchField(say("Find a program"), say("find"))
        self.search.setFixedWidth(digits_wide(11))
        self.search.textChanged.connect(self._look_for)
        self.profile = Chooser(say("Stock profile to count against"), flat=True)
        self.profile.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.profile.activated.connect(
            lambda at: self._ask(profile=self.profile.itemData(at) or "")
        )
        self.text = QLineEdit()
        self.text.setPlaceholderText(say("reason or name"))
        self.text.setAccessibleName(say("Reason to leave the program out, or name of the profile"))
        self.aside_button = QPushButton(say("Leave out"))
        self.aside_button.clicked.connect(self._set_aside)
        self.text.returnPressed.connect(self._set_aside)
        self.stop_button = QPushButton(say("Stop now"))
        explain(
            self.stop_button,
            say("Stop it as a trial: see what that frees, and whether it restarts by itself."),
        )
        self.stop_button.clicked.connect(self._stop_now)
        self.look_up_button = QPushButton(say("Look up"))
        explain(
            self.look_up_button,
            say("Put it on the look-up list, and search for it at the workshop's search address."),
        )
        self.look_up_button.clicked.connect(self._look_up)
        self.pause_button = QPushButton(say("Pause"))
        self.pause_button.clicked.connect(self.now.toggle)
        self.save_button = QPushButton(say("Save profile"))
        explain(
            self.save_button,
            say("Keep this boot as the picture of a fresh system, to count against."),
        )
        self.save_button.clicked.connect(self._save_profile)
        self._lay_out()

    def _prepare_table(self) -> None:
        table = self.table
        prepare(table, self._sorted, say("Programs and what they used"))
        table.setSortingEnabled(True)
        table.sortByColumn(1, Qt.SortOrder.DescendingOrder)
        self._delegate = LoadDelegate(table)
        table.setItemDelegate(self._delegate)
        row_height = self._delegate.sizeHint(None, None).height()  # type: ignore[arg-type]
        table.verticalHeader().setDefaultSectionSize(row_height)
        header = table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column, digits in ((1, 8.5), (2, 10.5), (3, 14.5), (4, 10.5)):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            table.setColumnWidth(column, max(digits_wide(digits), header.sectionSizeHint(column)))
        table.selectionModel().currentRowChanged.connect(self._show_about)
        table.doubleClicked.connect(self._show_entry)

    def _lay_out(self) -> None:
        spans, bys = list(Span), list(By)
        self._spans = ChoiceRow(say("Time shown"), map(choice, spans))
        self._bys = ChoiceRow(say("Grouped by"), map(choice, bys))
        self._spans.take(spans.index(Span.STARTUP))
        self._bys.take(bys.index(self._question.by))
        self._spans.chosen.connect(lambda at: self._ask(span=spans[at]))
        self._bys.chosen.connect(lambda at: self._ask(by=bys[at]))
        right = QWidget()
        chooser = QHBoxLayout(right)
        chooser.setContentsMargins(0, 0, 0, 0)
        chooser.addStretch(1)
        chooser.addWidget(self._bys)
        chooser.addWidget(self.pause_button)
        chooser.addWidget(self.search)
        done_here = QWidget()
        foot = QHBoxLayout(done_here)
        foot.setContentsMargins(0, 0, 0, 0)
        foot.addStretch(1)
        foot.addWidget(self.text, 2)
        foot.addWidget(self.aside_button)
        foot.addWidget(self.look_up_button)
        foot.addWidget(self.stop_button)
        foot.addWidget(self.save_button)
        self._foot = BesideOrBelow(self.profile, done_here)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 6, 14, 10)
        layout.setSpacing(5)
        layout.addWidget(BesideOrBelow(self._spans, right))
        layout.addWidget(self.brush)
        layout.addWidget(self.table, 1)
        for widget in (self._about, self._sums, self._stock, self._summary, self._foot):
            layout.addWidget(widget)

    def _look_for(self, wanted: str) -> None:
        self._sorted.look_for(wanted)
        self._show_about()

    def _ask(self, **changed: Any) -> None:
        self._question = replace(self._question, **changed)
        if "span" in changed and not isinstance(changed["span"], Span):
            self._spans.take(None)
        self.refresh()

    def refresh(self) -> None:
        """Ask about the chosen boot, or about now, and show the answer once it is there."""
        job, question = self._desk.job, self._question
        is_now = question.span is Span.NOW
        self.now.look_at(job if is_now else None)
        shown = self.now.analysis if is_now else self._desk.boot
        self._offer_spans(at_rest=False)
        if job is None or shown is None:
            waiting = (
                say("Reading the PC…") if is_now else say("No boot yet. Record one with Ctrl+R.")
            )
            self._show_note(self.now.trouble or waiting)
            return
        shop, number = self._desk.workshop, job.number
        self._desk.executor.ask(
            "load",
            lambda: in_words(
                load_answer(shop.ledger, number, shown, shop.analyses, question, shop.memory)
            ),
            self._answered,
        )

    def _answered(self, found: tuple[LoadAnswer, tuple[ListedProgram, ...]]) -> None:
        self._answer, listed = found
        self._show(self._answer, listed)

    def hideEvent(self, event: QHideEvent) -> None:
        """Not shown any more: nothing is read."""
        self.now.look_at(None)
        super().hideEvent(event)

    def _show_pause(self) -> None:
        self.pause_button.setVisible(self._question.span is Span.NOW)
        self.pause_button.setText(say("Continue") if self.now.paused else say("Pause"))

    def _show_note(self, note: str) -> None:
        self.model.show_rows(())
        for widget in (self.table, self.brush, self._sums, self._stock, self._about, self._foot):
            widget.setVisible(not note)
        self._summary.setText(note)

    def _offer_spans(self, at_rest: bool) -> None:
        """A reading at rest has no startup to be looked at: it is shown whole."""
        asked = self._question.span
        for span, button in zip(Span, self._spans.buttons(), strict=True):
            button.setVisible(span in {Span.WHOLE, Span.NOW} or not at_rest)
            if isinstance(asked, Span):
                whole = at_rest and asked is not Span.NOW
                button.setChecked(span is (Span.WHOLE if whole else asked))
        self._show_pause()

    def _show(self, answer: LoadAnswer, listed: tuple[ListedProgram, ...]) -> None:
        page, is_now = answer.page, self._question.span is Span.NOW
        boot = self._desk.boot
        self._offer_spans(boot is not None and boot.how is How.AT_REST)
        if sentence := nothing_watched(page):
            self._show_note(sentence)
            return
        self._show_note("")
        self._show_rows(listed)
        self.brush.setVisible(not is_now)
        self.brush.show_curve(page.curve, page.span, page.settled)
        self._sums.setText(f"<b>{escape(say('In all'))}</b> {escape(sums_in_words(page))}")
        stock = stock_in_words(page)
        self._stock.setText(stock)
        self._stock.setVisible(bool(stock))
        self._summary.setText(summary_of_now(page, self.now.paused) if is_now else summary(page))
        if is_now:
            self._figures.tell(sums_in_words(page))
        self.profile.clear()
        self.profile.addItem(say("stock profile: none"), "")
        for name in answer.profiles:
            self.profile.addItem(say("against {name}", name=shown(name)), name)
            if name == self._question.profile:
                self.profile.setCurrentIndex(self.profile.count() - 1)
        self.save_button.setEnabled(self._desk.writable)
        self._show_about()

    def _show_rows(self, rows: tuple[ListedProgram, ...]) -> None:
        """Show other rows; what was chosen and where the list stood stay."""
        chosen: ListedProgram | None = self.table.currentIndex().data(ROW_ROLE)
        bar = self.table.verticalScrollBar()
        stood = bar.value()
        self.model.show_rows(rows)
        if chosen is None:
            return
        for at, listed in enumerate(self.model.rows):
            if listed.key == chosen.key:
                index = self._sorted.mapFromSource(self.model.index(at, 0))
                self.table.selectRow(index.row())
        bar.setValue(stood)

    def _show_about(self) -> None:
        listed: ListedProgram | None = self.table.currentIndex().data(ROW_ROLE)
        about = f"{listed.words.name}: {listed.words.about}" if listed else ""
        if self.model.rows and not self._sorted.rowCount():
            about = say("No program matches “{text}”.", text=self.search.text())
        self._about.setText(about)
        self._about.setVisible(bool(about))
        row = listed.row if listed else None
        aside = self._answer.aside if self._answer else {}
        back = row is not None and row.program in aside
        self.aside_button.setText(say("Bring back") if back else say("Leave out"))
        may = row is not None and bool(row.program) and not row.measuring
        self.look_up_button.setEnabled(
            self._desk.writable and row is not None and bool(row.name) and not row.measuring
        )
        self.aside_button.setEnabled(may and self._desk.writable)
        self.stop_button.setEnabled(row is not None and not row.measuring)

    def _show_entry(self) -> None:
        """The entry that a row is, or belongs to."""
        listed: ListedProgram | None = self.table.currentIndex().data(ROW_ROLE)
        if listed is not None and listed.row.belongs_to:
            self.entry_wanted.emit(listed.row.belongs_to)

    @property
    def basis(self) -> Basis | None:
        """What the chosen row rests on, or the sums."""
        listed: ListedProgram | None = self.table.currentIndex().data(ROW_ROLE)
        if self._answer is None or not self._answer.page.rows:
            return None
        return of_load(listed.words if listed is not None else None, self._answer.page)

    def _stop_now(self) -> None:
        listed: ListedProgram | None = self.table.currentIndex().data(ROW_ROLE)
        if listed is not None:
            self.stop_button.setEnabled(False)
            stop_row(self._desk, listed.row, self._show_about)

    def _look_up(self) -> None:
        """Put it on the list; where the workshop has set an address, search for it there."""
        listed: ListedProgram | None = self.table.currentIndex().data(ROW_ROLE)
        job, desk = self._desk.job, self._desk
        if listed is None or job is None:
            return
        number, row, name = job.number, listed.row, listed.words.name
        path = unwrapped(row.command).program

        def write(ledger: Ledger) -> str:
            look_up_program(ledger, number, name, path, row.entry)
            return search_address(ledger)

        def written(address: str) -> None:
            desk.door.say(put_on_the_list(name, bool(address)))
            if address:
                open_search(desk, name)

        desk.do(write, written)

    def _set_aside(self) -> None:
        listed: ListedProgram | None = self.table.currentIndex().data(ROW_ROLE)
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
