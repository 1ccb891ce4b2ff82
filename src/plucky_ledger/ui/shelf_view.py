"""The job shelf: one ledger spine per job, with its state, total and staircase."""

from PySide6.QtCore import QModelIndex, Qt, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QStackedLayout,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.pages.shelf import ShelfFilter, ShelfOrder, Spine, counts, shelf
from plucky_ledger.ui.accessible.following import keyboard_follows
from plucky_ledger.ui.choices import Chooser
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.search_field import SearchField
from plucky_ledger.ui.shelf_model import SPINE_ROLE, FoundSpines, ShelfModel
from plucky_ledger.ui.spine_delegate import SpineDelegate, SpineList
from plucky_ledger.ui.text import Marked, Text
from plucky_ledger.ui.theme import scaled_font, title_font
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.wording.language import say
from plucky_ledger.wording.shelf import filter_in_words, order_in_words


class ShelfView(QWidget):
    """All jobs of the ledger, or what to do first.

    Signals:
        take_in_wanted(): a PC is to be taken in.
        another_wanted(): the same, and it is not this one.
        demo_wanted(): the demo is to be looked at.
    """

    take_in_wanted = Signal()
    another_wanted = Signal()
    demo_wanted = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("page")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._desk = desk
        self.model = ShelfModel()
        self._found = FoundSpines()
        self._found.setSourceModel(self.model)
        self.spines = SpineList()
        self.spines.setModel(self._found)
        self._delegate = SpineDelegate(self.spines)
        self.spines.setItemDelegate(self._delegate)
        self.spines.setAccessibleName(say("Jobs"))
        keyboard_follows(self.spines)
        self.spines.activated.connect(self._open)
        self.spines.clicked.connect(self._open)
        hint = say("find a job: label, PC, owner or state")
        self.search = SearchField(say("Find a job"), hint, wide=320)
        self.search.setMinimumWidth(160)
        self.search.setMaximumWidth(320)
        self.search.textChanged.connect(self._look_for)
        self.search.returnPressed.connect(self._open_first)
        self.order = Chooser(say("Order of the jobs"))
        for order in ShelfOrder:
            self.order.addItem(order_in_words(order), order)
        self.order.currentIndexChanged.connect(self.refresh)
        self.kinds = Chooser(say("Which jobs are shown"))
        self.kinds.setSizeAdjustPolicy(Chooser.SizeAdjustPolicy.AdjustToContents)
        for kind in ShelfFilter:
            self.kinds.addItem(filter_in_words(kind, 0), kind)
        self.kinds.currentIndexChanged.connect(self._show_kind)
        self.beginnings: list[QPushButton] = []
        """On an empty shelf: this PC, another one, the demo."""
        self.take_in_button = QPushButton(say("Take in a PC…"))
        self.take_in_button.setProperty("main", True)
        self.take_in_button.clicked.connect(self.take_in_wanted)
        self._lay_out()
        desk.shelf_changed.connect(self.refresh)

    def _lay_out(self) -> None:
        heading = Text(say("Job shelf"))
        heading.setFont(title_font(1.9))
        head = QHBoxLayout()
        head.addWidget(heading)
        head.addStretch(1)
        head.addWidget(self.take_in_button)
        which = QHBoxLayout()
        which.addWidget(self.search, 1)
        which.addWidget(self.kinds)
        which.addWidget(self.order)
        which.addStretch(1)
        self._stack = QStackedLayout()
        self._stack.addWidget(self._empty_shelf())
        self._stack.addWidget(self.spines)
        self._stack.addWidget(self._nothing_found())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(28, 20, 28, 20)
        layout.setSpacing(14)
        layout.addLayout(which)
        layout.insertLayout(0, head)  # after it: the keyboard begins in the search field
        layout.addLayout(self._stack, 1)

    def _empty_shelf(self) -> QWidget:
        """What to do first, and the three ways to begin."""
        first = Marked(
            say(
                "<p>No PC has been taken in yet.</p>"
                "<p>1. <b>Take in a PC</b>: its name and what it has are filled in if it is this "
                "one.</p>"
                "<p>2. <b>Record its first boot</b> (Ctrl+R) before anything is touched: that "
                "opens the book.</p>"
                "<p>3. Change something, restart, record again: the book shows what it saved.</p>"
            )
        )
        first.setWordWrap(True)
        first.setFont(scaled_font(1.15))
        first.setAlignment(Qt.AlignmentFlag.AlignCenter)
        row = QHBoxLayout()
        row.addStretch(1)
        for words, wanted, main in (
            (say("Take in this PC"), self.take_in_wanted, True),
            (say("Take in another PC"), self.another_wanted, False),
            (say("Look at the demo"), self.demo_wanted, False),
        ):
            button = QPushButton(words)
            button.setProperty("main", main)
            button.clicked.connect(wanted)
            self.beginnings.append(button)
            row.addWidget(button)
        row.addStretch(1)
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.addStretch(1)
        layout.addWidget(first)
        layout.addSpacing(18)
        layout.addLayout(row)
        layout.addStretch(2)
        return page

    def _nothing_found(self) -> QWidget:
        """What is said where no job matches, and the way back to all."""
        self.none_found = Text()
        self.none_found.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.show_all_button = QPushButton(say("Show all jobs"))
        self.show_all_button.clicked.connect(self._show_all)
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.addStretch(1)
        layout.addWidget(self.none_found)
        layout.addWidget(self.show_all_button, 0, Qt.AlignmentFlag.AlignCenter)
        layout.addStretch(2)
        return page

    def _look_for(self, text: str) -> None:
        self._found.look_for(text)
        self._show_page()

    def _show_kind(self) -> None:
        self._found.show_only(ShelfFilter(self.kinds.currentData()))
        self._show_page()

    def _show_all(self) -> None:
        self.search.clear()
        self.kinds.setCurrentIndex(0)

    def _show_page(self) -> None:
        """The jobs, what to do first, or that none was found."""
        nothing = bool(self._desk.shelf) and self._found.rowCount() == 0
        text = self.search.text()
        self.none_found.setText(
            say("No job matches “{text}”.", text=text) if text else say("There is none of these.")
        )
        self._stack.setCurrentIndex(2 if nothing else 1 if self._desk.shelf else 0)

    def _open_first(self) -> None:
        """The first that was found."""
        if self._found.rowCount():
            self._open(self._found.index(0, 0))

    def refresh(self) -> None:
        """Show the jobs as they are now."""
        self._delegate.order = ShelfOrder(self.order.currentData())
        self.model.show_spines(shelf(self._desk.shelf, self._delegate.order))
        for at, (kind, count) in enumerate(counts(self._desk.shelf, now()).items()):
            self.kinds.setItemText(at, filter_in_words(kind, count))
        self._show_page()
        for widget in (self.search, self.kinds, self.order):
            widget.setVisible(bool(self._desk.shelf))

    def _open(self, index: QModelIndex) -> None:
        spine: Spine = index.data(SPINE_ROLE)
        self._desk.open_job(spine.job)
