"""The look-up list: what was left on to be researched, over all jobs, with room for the finding."""

from html import escape

from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QWidget,
)

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.searching import open_search
from plucky_ledger.ui.text import Marked, Text
from plucky_ledger.usecases.changing.decisions import write_finding
from plucky_ledger.usecases.reading.elsewhere import LookUp
from plucky_ledger.usecases.reading.search import NAME, search_address, set_search_address
from plucky_ledger.wording.language import N_, say
from plucky_ledger.wording.safe import shown

HEADINGS = (N_("entry"), N_("job"), N_("why it is looked up"), N_("what was found out"))


class LookUpPanel(Panel):
    """One line an entry; what is typed is kept for every job that has the same program."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            say("Look-up list"),
            say(
                "Entries left on because you did not know them. What you find out is shown on "
                "the card of the same program on every other PC."
            ),
        )
        self._desk = desk
        self.fields: list[QLineEdit] = []
        self._empty = Text(
            say("Nothing is to be looked up. In the Entries lens, ? puts an entry on this list.")
        )
        self._empty.setProperty("quiet", True)
        self._list = QScrollArea()
        self._list.setAccessibleName(self.accessibleName())
        self._list.setWidgetResizable(True)
        self.body.addWidget(self._empty)
        self.body.addWidget(self._list, 1)
        self.address = QLineEdit()
        self.address.setPlaceholderText(say("such as {example}", example=f"https://…/?q={NAME}"))
        self.address.setAccessibleName(say("Search address of this workshop"))
        self.address.editingFinished.connect(self._keep_address)
        row = QHBoxLayout()
        row.addWidget(Text(say("Search at")))
        row.addWidget(self.address, 1)
        self.body.addLayout(row)
        about = Text(
            say(
                "Any address, with {name} in place of the program. It is opened in your browser "
                "only when you press Search; nothing is sent by itself.",
                name=NAME,
            )
        )
        about.setProperty("quiet", True)
        about.setWordWrap(True)
        self.body.addWidget(about)
        leave = self.add_button(say("Back"), main=True)
        leave.clicked.connect(self.leave)

    def begin(self) -> None:
        """Read the list anew."""
        shop = self._desk.workshop
        self._desk.executor.ask("look-ups", lambda: shop.memory.look_ups(shop.ledger), self._show)
        self._desk.executor.ask("address", lambda: search_address(shop.ledger), self._show_address)

    def _show_address(self, address: str) -> None:
        self.address.setText(address)
        self.address.setProperty("kept", address)

    def _keep_address(self) -> None:
        address = self.address.text().strip()
        if address == self.address.property("kept"):
            return
        self.address.setProperty("kept", address)
        self._desk.do(
            lambda ledger: set_search_address(ledger, address),
            lambda _done: self._desk.door.say(say("The search address is saved.")),
        )

    def _show(self, look_ups: tuple[LookUp, ...]) -> None:
        inner = QWidget()
        grid = QGridLayout(inner)
        grid.setContentsMargins(0, 0, 8, 0)
        grid.setHorizontalSpacing(14)
        grid.setColumnStretch(3, 1)
        for column, heading in enumerate(HEADINGS):
            label = Text(say(heading))
            label.setProperty("quiet", True)
            grid.addWidget(label, 0, column)
        self.fields = [self._add(grid, row, look_up) for row, look_up in enumerate(look_ups, 1)]
        grid.setRowStretch(len(look_ups) + 1, 1)
        self._list.setWidget(inner)
        self._list.setVisible(bool(look_ups))
        self._empty.setVisible(not look_ups)
        if self.fields:
            self.fields[0].setFocus()

    def _add(self, grid: QGridLayout, row: int, look_up: LookUp) -> QLineEdit:
        texts = (
            f"<b>{escape(shown(look_up.decided.name))}</b>",
            f"{look_up.card.label} {look_up.card.title}",
            look_up.decided.reason,
        )
        for column, text in enumerate(texts):
            label = Marked(text) if column == 0 else Text(shown(text))
            label.setWordWrap(column == 2)
            grid.addWidget(label, row, column)
        field = QLineEdit(look_up.decided.finding)
        field.setPlaceholderText(say("type it, then Return"))
        field.setAccessibleName(
            say("What was found out about {name}", name=shown(look_up.decided.name))
        )
        field.editingFinished.connect(lambda: self._keep(look_up, field))
        grid.addWidget(field, row, 3)
        search = QPushButton(say("Search"))
        search.setAccessibleName(say("Search for {name}", name=shown(look_up.decided.name)))
        search.clicked.connect(lambda: open_search(self._desk, look_up.decided.name))
        grid.addWidget(search, row, 4)
        return field

    def _keep(self, look_up: LookUp, field: QLineEdit) -> None:
        text = field.text().strip()
        if text != look_up.decided.finding and field.property("kept") != text:
            field.setProperty("kept", text)
            self._desk.do(
                lambda ledger: write_finding(ledger, look_up.job, look_up.decided.entry_id, text),
                lambda _done: self._desk.door.say(
                    say("Finding saved: {name}.", name=shown(look_up.decided.name))
                ),
            )
