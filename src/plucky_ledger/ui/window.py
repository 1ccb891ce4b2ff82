"""The window: head, job shelf, the open book, and the menus."""

import sys
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QPoint, QProcess, QSize, Qt
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QMainWindow,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.book.next_step import NextStepKind
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.ui.actions import Actions, Place
from plucky_ledger.ui.book.book_view import BookView
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.file_dialogs import Files, dropped
from plucky_ledger.ui.job_files import JobFiles, job_files_in
from plucky_ledger.ui.learned import Learned
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.meanwhile import GoesOnHere
from plucky_ledger.ui.menus.menus import window_actions
from plucky_ledger.ui.message_line import MessageLine
from plucky_ledger.ui.right_page import RightPage
from plucky_ledger.ui.saving_pictures import chart_at, offer_chart
from plucky_ledger.ui.shelf_view import ShelfView
from plucky_ledger.ui.sticks import Sticks
from plucky_ledger.ui.switching import Switching
from plucky_ledger.ui.taking_out import TakingOut
from plucky_ledger.ui.text import Elided, Text
from plucky_ledger.ui.theme import named, title_font
from plucky_ledger.ui.ways import Ways
from plucky_ledger.ui.window_panels import Panels
from plucky_ledger.usecases.changing.postings import rub_out
from plucky_ledger.usecases.jobs.visits import write_down_outside
from plucky_ledger.usecases.recording.boots import bring_boot_back
from plucky_ledger.usecases.recording.picking_up import pick_up
from plucky_ledger.wording.about import about
from plucky_ledger.wording.facts import subtitle
from plucky_ledger.wording.language import say
from plucky_ledger.wording.reasons import reason_in_words
from plucky_ledger.wording.recording import remarks
from plucky_ledger.wording.safe import shown

BOOK_WIDTH = 498


class Window(QMainWindow):
    """One window on one ledger."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self._picked_up = 0
        self._opened = 0
        """Number of the job that was opened last."""
        self.setWindowTitle("Plucky Ledger")
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.shelf = ShelfView(desk)
        self.book = BookView(desk)
        self.right = RightPage(desk)
        self.main = QStackedWidget()
        self.panels = Panels(desk, self.right, self.main)
        self.files = Files(desk, self, self.panels.show_figures_table)
        self.panels.ledger_wanted.connect(self.files.open_ledger)
        self.switching = Switching(desk, self.panels)
        self.taking_out = TakingOut(desk, self.book, self.right)
        self.sticks = Sticks(desk, self)
        self.job_files = JobFiles(desk, self, self.panels)
        self.learned = Learned(desk, self)
        self.goes_on_here = GoesOnHere(desk, self.job_files)
        self.ways = Ways(desk, self.shelf, self.book, self.right, self.panels)
        self._lay_out()
        self.actions_made = Actions(self, window_actions(self), self.message_line.clear)
        self.actions_made.fill(self.menuBar())
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
        self._title = Text()
        self._title.setFont(title_font(1.7))
        self._subtitle = Elided()
        self._subtitle.setAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self._subtitle.setProperty("quiet", True)
        self.record_button = QPushButton()
        self.record_button.clicked.connect(self.panels.show_recording)
        row.addWidget(self._title)
        row.addWidget(self._subtitle, 1)
        row.addWidget(self.record_button)
        self.message_line = MessageLine()
        self.pages = QSplitter(Qt.Orientation.Horizontal)
        self.pages.addWidget(self.book)
        self.pages.addWidget(self.right)
        self.pages.setStretchFactor(1, 1)
        self.pages.setHandleWidth(3)
        self.pages.setSizes([BOOK_WIDTH, 1280 - BOOK_WIDTH])
        for page in (self.shelf, self.pages):
            self.main.addWidget(page)
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._head)
        layout.addWidget(self.main, 1)
        layout.addWidget(self.message_line)
        self.setCentralWidget(body)

    def _connect(self) -> None:
        self.desk.job_changed.connect(self.job_changed)
        self.desk.line_changed.connect(self._show_what_can_be_done)
        self.desk.boot_changed.connect(self._show_what_can_be_done)
        self.desk.door.listen(self.message_line.show_message)
        self.book.next_wanted.connect(self.take_next_step)
        self.right.lens_changed.connect(self._show_what_can_be_done)
        self.right.lens_made.connect(self._lens_made)
        self.book.lines.doubleClicked.connect(self.ways.to_verdict)
        self.right.step_wanted.connect(self.decide)
        self.shelf.take_in_wanted.connect(self.panels.show_take_in)
        self.shelf.another_wanted.connect(self.panels.show_take_in_another)
        self.shelf.demo_wanted.connect(self.open_demo)
        for begun in (
            self.right.lens_chosen,
            self.book.lines.clicked,
            self.book.next_wanted,
            self.shelf.spines.activated,
        ):
            begun.connect(self.message_line.clear)
        self.message_line.details_wanted.connect(self.panels.show_details)
        self.panels.page_left.connect(self._back)
        self.sticks.found.connect(self._show_what_can_be_done)
        self.panels.recording_changed.connect(self.recording_changed)
        for place, widget in (
            (Place.BOOK, self.book.lines),
            (Place.LANES, self.right.lanes.canvas),
            (Place.SHELF, self.shelf.spines),
        ):
            self._offer_menu(place, widget)

    def _lens_made(self, name: LensName) -> None:
        """A lens is there: what leads from it to elsewhere, and what can be done in it."""
        if name is LensName.ENTRIES:
            entries = self.right.entries
            entries.post_wanted.connect(self.switching.post)
            entries.lane_wanted.connect(self.ways.to_lane)
            self._offer_menu(Place.ENTRIES, entries.table)
        elif name is LensName.LOAD:
            load = self.right.load
            load.entry_wanted.connect(self.ways.to_entry)
            self._offer_menu(Place.LOAD, load.table)
        elif name is LensName.VERDICT:
            self.right.verdict.step_wanted.connect(self.right.step_wanted)
            self._offer_menu(Place.VERDICT, self.right.verdict)
        elif name is LensName.WHY:
            self.right.why.advice.entry_wanted.connect(self.ways.to_entry)
            self._offer_menu(Place.WHY, self.right.why)
        elif name is LensName.STATEMENT:
            self._offer_menu(Place.STATEMENT, self.right.statement.preview)

    def _offer_menu(self, place: Place, widget: QWidget) -> None:
        """What can be done there, at the press of the menu key or the other button."""

        def offer(at: QPoint) -> None:
            menu = self.actions_made.context_menu(place, self)
            menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
            chart = chart_at(widget, at)
            if chart is not None:
                offer_chart(self.desk, menu, chart)
            if not menu.isEmpty():
                menu.popup(widget.mapToGlobal(at))

        self.actions_made.act_in(place, widget)
        widget.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        widget.customContextMenuRequested.connect(offer)

    def action(self, name: str) -> QAction:
        """One of the actions, by its name."""
        return self.actions_made.made[name]

    def _show_what_can_be_done(self) -> None:
        """Grey out what makes no sense now."""
        self.actions_made.show_what_can_be_done()
        writable = self.desk.writable
        self.record_button.setEnabled(self.desk.job is not None and writable)
        self.book.button.setEnabled(writable)
        self.shelf.take_in_button.setEnabled(writable)
        for button in self.shelf.beginnings[:2]:
            button.setEnabled(writable)

    # What the menus and buttons do.

    def show_shelf(self) -> None:
        """Back to the job shelf."""
        self.desk.close_job()

    def open_demo(self) -> None:
        """The demo's job in a window of its own: this ledger is left alone."""
        begun, _ = QProcess.startDetached(sys.executable, ["-m", "plucky_ledger", "--demo"])
        if begun:
            self.desk.door.say(say("The demo opens in a window of its own."))

    def reset_demo(self) -> None:
        """The demo as it was at first, in a window that opens in place of this one."""
        self.close()
        QProcess.startDetached(sys.executable, ["-m", "plucky_ledger", "demo", "--reset"])

    def show_keys(self) -> None:
        """Every shortcut with what it does."""
        self.panels.show_keys(self.actions_made.keys())

    def show_about(self) -> None:
        """Which version this is, and where it keeps what."""
        desk = self.desk
        words = about(desk.ledger.path, desk.workshop.place.logs)
        self.panels.show_details(words, say("About Plucky Ledger"))

    def bring_back(self) -> None:
        """Take the chosen boot into the account again."""
        job, boot = self.desk.job, self.desk.boot
        if job is not None and boot is not None:
            number, boot_number = job.number, boot.number
            self.desk.do(lambda ledger: bring_boot_back(ledger, number, boot_number))

    def write_down_outside(self) -> None:
        """Write what others changed on the PC into the book."""
        job = self.desk.job
        if job is not None:
            number = job.number
            self.desk.do(
                lambda ledger: write_down_outside(ledger, number, reason_in_words),
                lambda _posting: self.desk.stand_at_newest(),
            )

    def rub_out(self) -> None:
        """Remove the pencilled posting."""
        job = self.desk.job
        if job is not None:
            number = job.number
            self.desk.do(lambda ledger: rub_out(ledger, number))

    def take_next_step(self, step: NextStepKind) -> None:
        """What the button at the foot of the book does."""
        if step is NextStepKind.DRIFT:
            self.right.show_lens(LensName.ENTRIES)
            self.right.entries.switch_off_for_good()
            self.right.take_focus()
        elif step is NextStepKind.TURN:
            self.switching.take_turn()
        elif step is NextStepKind.TAKE_TURNS:
            self.desk.stand_at_newest()
            self.switching.begin_turns()
        elif step is NextStepKind.OUTSIDE:
            self.write_down_outside()
        elif step is NextStepKind.DECIDE:
            self.right.show_lens(LensName.ENTRIES)
            self.right.take_focus()
        elif step is NextStepKind.POST:
            self.switching.post()
        elif step is NextStepKind.STATE:
            self.right.show_lens(LensName.STATEMENT)
        elif self.book.by_restart:
            self.panels.show_arming()
        else:
            self.panels.show_recording()

    def decide(self, step: NextStepKind) -> None:
        """What would decide the verdict on the selected line."""
        if step is NextStepKind.TAKE_TURNS:
            self.switching.begin_turns()
        else:
            self.take_next_step(step)

    def put_entry_back(self) -> None:
        """Put the selected entry back as it was."""
        entry_id = self.right.chosen_entry
        if entry_id:
            self.switching.put_entry_back(entry_id)

    # What changes on the desk.

    def job_changed(self) -> None:
        """Another job, or none."""
        job = self.desk.job
        self._head.setVisible(job is not None)
        name = say("Plucky Ledger")
        self.setWindowTitle(f"{shown(job.card.title)} · {name}" if job is not None else name)
        if job is not None:
            self._title.setText(shown(job.card.title))
            self._subtitle.show_text(subtitle(job.card, job.facts))
        # The keyboard stays where it is while the job in sight is written in.
        if self.main.currentWidget() is (self.pages if job is None else self.shelf):
            self._back()
        if job is not None:
            self._pick_up(job.number)
            self._begin_with_recording(job)
        self._show_what_can_be_done()

    def _begin_with_recording(self, job: Job) -> None:
        """A job without a boot opens on recording its first: nothing else can be done with it."""
        is_new = job.number != self._opened
        self._opened = job.number
        if is_new and not job.boots and job.pencilled is None and self.desk.writable:
            self.take_next_step(self.book.step)

    def _pick_up(self, number: int) -> None:
        """Armed recordings that were finished since come into the book by themselves."""
        if number == self._picked_up or not self.desk.writable:
            return
        self._picked_up = number
        place = self.desk.workshop.place
        self.desk.do(
            lambda ledger: pick_up(ledger, place, number),
            self._picked,
        )

    def _picked(self, said: list[Reason | Trouble]) -> None:
        self.desk.door.say(remarks(said))
        if said:
            self.desk.stand_at_newest()

    def _back(self) -> None:
        """From a page that fills the window to the book, or to the shelf."""
        self.main.setCurrentWidget(self.pages if self.desk.job is not None else self.shelf)
        if self.desk.job is not None:
            self.book.lines.setFocus()

    def recording_changed(self) -> None:
        """Say in the head that a recording is running."""
        running = self.panels.is_recording
        sentence = say("Recording…") if running else say("Record a boot")
        self.record_button.setText(f"◉ {sentence}")
        self.record_button.setAccessibleName(sentence)

    @property
    def message(self) -> str:
        """What is being said; empty when nothing is."""
        return self.message_line.message.text

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Recordings and ledgers may be dropped here."""
        if dropped(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """What was dropped comes into the book, or opens."""
        event.acceptProposedAction()
        self.message_line.clear()
        paths = dropped(event.mimeData())
        self.job_files.take(job_files_in(paths))
        self.files.take(paths)

    def open_files(self, files: Sequence[Path]) -> None:
        """Recordings and jobs that were opened outside."""
        jobs = job_files_in(files)
        self.job_files.take(jobs)
        self.sticks.open([path for path in files if path not in jobs])

    def closeEvent(self, event: QCloseEvent) -> None:
        self.hide()
        self.desk.close()
        self.goes_on_here.close()
        event.accept()
