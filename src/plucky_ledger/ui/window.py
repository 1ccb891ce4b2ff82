"""The window: head, job shelf, the open book, and the menus."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QAction, QActionGroup, QCloseEvent, QKeySequence
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger import __version__
from plucky_ledger.core.book.job import Posting, PostingState, state_of
from plucky_ledger.core.book.next_step import Step
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.measures import Measure
from plucky_ledger.pages.book import subtitle
from plucky_ledger.ui.book_view import BookView
from plucky_ledger.ui.desk import Desk, Message
from plucky_ledger.ui.panels.arming import ArmPanel
from plucky_ledger.ui.panels.grades import GradesPanel
from plucky_ledger.ui.panels.look_up import LookUpPanel
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.panels.recording import RecordingPanel, import_and_tell, left_over
from plucky_ledger.ui.panels.stopwatch import CorrectMarksPanel, StopwatchPanel
from plucky_ledger.ui.panels.take_in import TakeInPanel
from plucky_ledger.ui.panels.type_entries import TypeEntriesPanel
from plucky_ledger.ui.panels.type_figures import SetAsidePanel, TypedPanel
from plucky_ledger.ui.panels.write_down import WriteDownPanel
from plucky_ledger.ui.right_page import LENSES, RightPage
from plucky_ledger.ui.shelf_view import ShelfView
from plucky_ledger.ui.theme import named, title_font
from plucky_ledger.usecases.arming import pick_up
from plucky_ledger.usecases.boots import bring_back
from plucky_ledger.usecases.postings import post, rub_out, strike_out
from plucky_ledger.wording.figures import shown

BOOK_WIDTH = 498
DECISIONS = (
    (Decision.KEEP, "Keep", "K"),
    (Decision.OFF, "Switch off", "O"),
    (Decision.LATER, "Start later", "L"),
    (Decision.LOOK_UP, "Look it up first", "?"),
)
ENTRY_ACTIONS = (*(text for _, text, _ in DECISIONS), "Give the reason", "Find an entry",
                 "Unfold the parts of the system")  # fmt: skip


class Window(QMainWindow):
    """One window on one ledger."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self._picked_up = 0
        self.setWindowTitle("Plucky Ledger")
        self.resize(1280, 800)
        self.shelf = ShelfView(desk)
        self.book = BookView(desk)
        self.right = RightPage(desk)
        self.take_in = TakeInPanel(desk)
        self.stopwatch = StopwatchPanel(desk)
        self.recording = RecordingPanel(desk)
        self.write_down = WriteDownPanel(desk)
        self.typed = TypedPanel(desk)
        self.aside = SetAsidePanel(desk)
        self.correct = CorrectMarksPanel(desk)
        self.arming = ArmPanel(desk)
        self.look_up = LookUpPanel(desk)
        self.type_entries = TypeEntriesPanel(desk)
        self.grades = GradesPanel(desk)
        for panel in (
            self.recording,
            self.arming,
            self.write_down,
            self.typed,
            self.aside,
            self.correct,
            self.look_up,
            self.type_entries,
            self.grades,
        ):
            self.right.add_panel(panel)
        self._lay_out()
        self._fill_menus()
        self._connect()
        self.recording_changed()
        self.job_changed()
        desk.read_shelf()

    def sizeHint(self) -> QSize:
        return QSize(1280, 800)

    def _lay_out(self) -> None:
        self._head = named("head")
        row = QHBoxLayout(self._head)
        row.setContentsMargins(16, 9, 16, 9)
        self._title = QLabel()
        self._title.setFont(title_font(1.7))
        self._title.setTextFormat(Qt.TextFormat.PlainText)
        self._subtitle = QLabel()
        self._subtitle.setProperty("quiet", True)
        self._subtitle.setTextFormat(Qt.TextFormat.PlainText)
        self.record_button = QPushButton("◉ Record a boot")
        self.record_button.clicked.connect(self.show_recording)
        row.addWidget(self._title)
        row.addWidget(self._subtitle, 1)
        row.addWidget(self.record_button)
        self._message = named("message")
        self._message_text = QLabel()
        self._message_text.setWordWrap(True)
        self._message_text.setTextFormat(Qt.TextFormat.PlainText)
        dismiss = QPushButton("Got it")
        dismiss.clicked.connect(self._message.hide)
        row = QHBoxLayout(self._message)
        row.setContentsMargins(16, 5, 16, 5)
        row.addWidget(self._message_text, 1)
        row.addWidget(dismiss)
        self._message.hide()
        self._pages = QSplitter(Qt.Orientation.Horizontal)
        self._pages.addWidget(self.book)
        self._pages.addWidget(self.right)
        self._pages.setStretchFactor(1, 1)
        self._pages.setHandleWidth(3)
        self._pages.setSizes([BOOK_WIDTH, 1280 - BOOK_WIDTH])
        self.main = QStackedWidget()
        for page in (self.shelf, self._pages, self.take_in, self.stopwatch):
            self.main.addWidget(page)
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._head)
        layout.addWidget(self._message)
        layout.addWidget(self.main, 1)
        self.setCentralWidget(body)

    def _connect(self) -> None:
        self.desk.job_changed.connect(self.job_changed)
        self.desk.line_changed.connect(self._show_what_can_be_done)
        self.desk.boot_changed.connect(self._show_what_can_be_done)
        self.desk.told.connect(self.show_message)
        self.book.next_wanted.connect(self.take_next_step)
        self.right.lens_changed.connect(self._show_what_can_be_done)
        self.right.entries.post_wanted.connect(self.post)
        self.shelf.take_in_wanted.connect(self.show_take_in)
        self.take_in.closed.connect(self._back)
        self.stopwatch.closed.connect(self._back)
        self.recording.running_changed.connect(self.recording_changed)

    # Menus.

    def _fill_menus(self) -> None:
        bar = self.menuBar()
        self.actions_by_name: dict[str, QAction] = {}
        job = bar.addMenu("&Job")
        self._add(job, "Job shelf", "Ctrl+J", self.show_shelf)
        self._add(job, "Take in a PC…", "Ctrl+N", self.show_take_in)
        self._add(job, "Job card…", "Ctrl+E", self.show_card)
        job.addSeparator()
        self._add(job, "Quit", "Ctrl+Q", self.close)
        record = bar.addMenu("&Record")
        self._add(record, "Record a boot…", "Ctrl+R", self.show_recording)
        self._add(record, "Record the next boots, or read past ones…", "Ctrl+P", self.show_arming)
        self._add(record, "Time with the stopwatch…", "Ctrl+T", self.show_stopwatch)
        self._add(record, "Type figures in…", "Ctrl+Y", self.show_typed)
        self._add(record, "Import recordings…", "Ctrl+I", self.ask_for_recordings)
        record.addSeparator()
        self._add(record, "Correct the marks…", "Ctrl+M", self.show_correct)
        self._add(record, "Set this boot aside…", "Ctrl+B", self.show_aside)
        self._add(record, "Bring this boot back", "Ctrl+Shift+B", self.bring_boot_back)
        self._fill_entries_menu(bar.addMenu("&Entries"))
        book = bar.addMenu("&Book")
        self._add(book, "Write down changes…", "Ctrl+D", self.show_write_down)
        self._add(book, "Post what is pencilled", "Ctrl+Return", self.post)
        self._add(book, "Rub out what is pencilled", "Ctrl+Backspace", self.rub_out)
        self._add(book, "Put this posting back", "Ctrl+U", self.strike_out)
        book.addSeparator()
        self._add(book, "Undo", "Ctrl+Z", self.desk.undo)
        self._add(book, "Do again", "Ctrl+Shift+Z", self.desk.redo)
        self._fill_view_menu(bar.addMenu("&View"))
        about = bar.addMenu("&Help")
        self._add(about, "What a line of the book means", "F1", self.explain)
        self._add(about, "Version", "", lambda: self.desk.say(f"Plucky Ledger {__version__}"))

    def _fill_entries_menu(self, menu: QMenu) -> None:
        entries = self.right.entries
        for decision, text, keys in DECISIONS:
            self._add(menu, text, keys, lambda d=decision: entries.decide(d))  # type: ignore[misc]
        self._add(menu, "Give the reason", "R", entries.ask_reason)
        menu.addSeparator()
        self._add(menu, "Find an entry", "Ctrl+G", entries.search.setFocus)
        self._add(menu, "Unfold the parts of the system", "Ctrl+Shift+L", entries.fold.toggle)
        menu.addSeparator()
        self._add(menu, "Look-up list…", "Ctrl+K", self.show_look_up)
        self._add(menu, "Type entries in…", "Ctrl+Shift+Y", self.show_type_entries)
        self._add(menu, "Grades…", "", self.show_grades)

    def _fill_view_menu(self, view: QMenu) -> None:
        for index, lens in enumerate(LENSES):
            self._add(view, lens, str(index + 1), lambda lens=lens: self.right.show_lens(lens))  # type: ignore[misc]
        view.addSeparator()
        self._add(view, "Other page", "F6", self.other_page)
        canvas = self.right.lanes.canvas
        self._add(view, "Lanes: closer", "Ctrl++", lambda: canvas.zoom(1.25))
        self._add(view, "Lanes: further away", "Ctrl+-", lambda: canvas.zoom(0.8))
        self._add(view, "Lanes: whole boot", "Ctrl+0", canvas.fit)
        self._add(view, "Lanes: find", "Ctrl+F", self.find_lane)
        self._add(view, "Lanes: fold the system", "Ctrl+L", self.right.lanes.fold.toggle)
        view.addSeparator()
        measures = view.addMenu("Book kept in")
        group = QActionGroup(self)
        for measure in Measure:
            action = measures.addAction(measure.terms.title)
            action.triggered.connect(lambda _on, m=measure: self.desk.keep_book_in(m))
            group.addAction(action)

    def _add(self, menu: QMenu, text: str, keys: str, do: Callable[[], object]) -> None:
        action = menu.addAction(text)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda _on=False: do())
        self.actions_by_name[text.rstrip("…")] = action

    def _show_what_can_be_done(self) -> None:
        """Grey out what makes no sense now."""
        job, boot, posting = self.desk.job, self.desk.boot, self.selected_posting
        state = state_of(job, posting) if job and posting else None
        writable = not self.desk.ledger.read_only_because
        for name, possible in (
            ("Take in a PC", True),
            ("Job card", job),
            ("Record a boot", job),
            ("Record the next boots, or read past ones", job),
            ("Time with the stopwatch", job),
            ("Type figures in", job),
            ("Import recordings", job),
            ("Correct the marks", boot),
            ("Set this boot aside", boot and boot.counts),
            ("Bring this boot back", boot and not boot.counts),
            ("Write down changes", job),
            ("Post what is pencilled", job and job.pencilled),
            ("Rub out what is pencilled", job and job.pencilled),
            ("Put this posting back", state in {PostingState.IN_FORCE, PostingState.POSTED}),
            ("Undo", True),
            ("Look-up list", True),
            ("Type entries in", job),
            ("Grades", True),
            *((name, job and self.right.lens == "Entries") for name in ENTRY_ACTIONS),
            ("Do again", True),
        ):
            self.actions_by_name[name].setEnabled(bool(possible) and writable)
        self.record_button.setEnabled(bool(job) and writable)
        self.book.button.setEnabled(writable)
        self.shelf.take_in_button.setEnabled(writable)

    @property
    def selected_posting(self) -> Posting | None:
        """Posting of the selected line; None on the opening and the balance line."""
        job, line = self.desk.job, self.desk.line
        if job is None or not 1 <= line <= len(job.postings):
            return None
        return job.postings[line - 1]

    # What the menus and buttons do.

    def show_shelf(self) -> None:
        """Back to the job shelf."""
        self.desk.close_job()

    def show_take_in(self) -> None:
        """An empty job card."""
        self.take_in.show_new()
        self.main.setCurrentWidget(self.take_in)

    def show_card(self) -> None:
        """The open job's card."""
        if self.desk.job is not None:
            self.take_in.show_job(self.desk.job)
            self.main.setCurrentWidget(self.take_in)

    def show_recording(self) -> None:
        """The bench panel."""
        if self.desk.job is not None:
            self.recording.begin(self.desk.job)
            self.right.show_panel(self.recording)

    def show_arming(self) -> None:
        """Record the next boots, or read past ones."""
        if self.desk.job is not None:
            self.right.show_panel(self.arming)
            self.arming.begin(self.desk.job)

    def show_stopwatch(self) -> None:
        """The stopwatch fills the window."""
        self.main.setCurrentWidget(self.stopwatch)
        self.stopwatch.begin()

    def show_typed(self) -> None:
        """Figures to be typed in."""
        self.right.show_panel(self.typed)
        self.typed.begin()

    def show_correct(self) -> None:
        """The marks of the chosen boot."""
        if self.desk.boot is not None:
            self.correct.begin(self.desk.boot)
            self._show_panel(self.correct)

    def show_aside(self) -> None:
        """Ask why the chosen boot is set aside."""
        if self.desk.boot is not None:
            self._show_panel(self.aside)
            self.aside.begin(self.desk.boot)

    def show_look_up(self) -> None:
        """Everything to be looked up, over all jobs."""
        self.look_up.begin()
        self._show_panel(self.look_up)

    def show_type_entries(self) -> None:
        """Entries of a PC that can run nothing of ours."""
        if self.desk.job is not None:
            self.type_entries.begin(self.desk.job)
            self._show_panel(self.type_entries)

    def show_grades(self) -> None:
        """From which share an entry is heavy, moderate or light."""
        self.grades.begin()
        self._show_panel(self.grades)

    def show_write_down(self) -> None:
        """Changes to be written down."""
        self._show_panel(self.write_down)
        self.write_down.begin()

    def _show_panel(self, panel: Panel) -> None:
        self.right.show_panel(panel)

    def bring_boot_back(self) -> None:
        """Take the chosen boot into the account again."""
        job, boot = self.desk.job, self.desk.boot
        if job is not None and boot is not None:
            self.desk.do(lambda ledger: bring_back(ledger, job, boot))

    def ask_for_recordings(self) -> None:
        """Choose recording files to import."""
        folder = self.desk.recordings_folder
        start = folder if left_over(folder) else Path.home()
        chosen, _ = QFileDialog.getOpenFileNames(
            self, "Import recordings", str(start), "Recordings (*.jsonl *.jsonl.gz *.jsonl.zst)"
        )
        self.import_recordings([Path(name) for name in chosen])

    def import_recordings(self, paths: list[Path]) -> None:
        """Import recording files into the open job."""
        job = self.desk.job
        for path in paths:
            if job is not None:
                import_and_tell(self.desk, job, path)

    def post(self) -> None:
        """The pencilled changes have been made."""
        job = self.desk.job
        if job is not None:
            self.desk.do(
                lambda ledger: post(ledger, job),
                lambda _number: self.desk.say("Posted. Now restart the PC: nothing counts before."),
            )

    def rub_out(self) -> None:
        """Remove the pencilled posting."""
        job = self.desk.job
        if job is not None:
            self.desk.do(lambda ledger: rub_out(ledger, job))

    def strike_out(self) -> None:
        """Put the selected posting back."""
        job, posting = self.desk.job, self.selected_posting
        if job is not None and posting is not None:
            self.desk.do(
                lambda ledger: strike_out(ledger, job, posting),
                lambda _number: self.desk.say("Struck out. Undo it on the PC, then restart it."),
            )

    def take_next_step(self, step: Step) -> None:
        """What the button at the foot of the book does."""
        if step is Step.DECIDE:
            self.right.show_lens("Entries")
            self.right.take_focus()
        elif step is Step.POST:
            self.post()
        elif step is Step.STATE:
            self.right.show_lens("Statement")
        else:
            self.show_recording()

    def other_page(self) -> None:
        """Move the keyboard to the other page."""
        if self.book.isAncestorOf(self.focusWidget() or self):
            self.right.take_focus()
        else:
            self.book.lines.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def find_lane(self) -> None:
        """To the search field of the lanes."""
        self.right.show_lens("Lanes")
        self.right.lanes.search.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def explain(self) -> None:
        """What the signs of the book mean."""
        self.desk.say(
            "● opening round · ■ in force · half-filled box: posted, restart due · □ pencilled · "
            "✕ struck out. One ring is one boot, the bar is the balance. Saved and lost are "
            "differences of balances: opening − saved + lost = closing."
        )

    # What changes on the desk.

    def job_changed(self) -> None:
        """Another job, or none."""
        job = self.desk.job
        self._head.setVisible(job is not None)
        if job is not None:
            self._title.setText(shown(job.card.title))
            self._subtitle.setText(subtitle(job))
        if self.main.currentWidget() in (self.shelf, self._pages):
            self._back()
        if job is not None:
            self._pick_up(job.number)
        self._show_what_can_be_done()

    def _pick_up(self, number: int) -> None:
        """Armed recordings that were finished since come into the book by themselves."""
        if number == self._picked_up or self.desk.ledger.read_only_because:
            return
        self._picked_up = number
        self.desk.do(
            lambda ledger: pick_up(ledger, number),
            lambda told: self.desk.say(" ".join(told)) if told else None,
        )

    def _back(self) -> None:
        """From a page that fills the window to the book, or to the shelf."""
        self.main.setCurrentWidget(self._pages if self.desk.job is not None else self.shelf)
        if self.desk.job is not None:
            self.book.lines.setFocus()

    def recording_changed(self) -> None:
        """Say in the head that a recording is running."""
        running = self.recording.running
        self.record_button.setText("◉ Recording…" if running else "◉ Record a boot")

    def show_message(self, message: Message) -> None:
        """One sentence under the head."""
        self._message_text.setText(f"! {message.text}" if message.bad else message.text)
        self._message_text.setProperty("bad", message.bad)
        self._message_text.style().polish(self._message_text)
        self._message.show()

    @property
    def message(self) -> str:
        """What is being said; empty when nothing is."""
        return self._message_text.text() if self._message.isVisibleTo(self) else ""

    def closeEvent(self, event: QCloseEvent) -> None:
        self.recording.shut_down()
        self.arming.shut_down()
        self.desk.close()
        event.accept()
