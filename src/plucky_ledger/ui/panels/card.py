"""Boots timed by hand on a card: the card to print, and a form like it to type it in."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPageLayout, QTextDocument
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.dialogs import ask_for_printer, ask_where_to_save
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.theme import digits_wide, ink
from plucky_ledger.usecases.jobs.workplace import home_folder
from plucky_ledger.usecases.recording.cards import (
    CARD_ROWS,
    SEEN,
    CardRow,
    card_html,
    read_card,
    save_card,
    take_in_card,
)
from plucky_ledger.wording.card import card_in_words, headings, row_in_words, taken_in
from plucky_ledger.wording.figures_table import boots_button
from plucky_ledger.wording.language import say

BECOMES = len(SEEN) + 1
HEADING_LINES, TIME_DIGITS, BEGUN_DIGITS = 4, 10, 17


class CardPanel(Panel):
    """A form whose columns are the card's; each row shows the boot that it becomes."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            say("Starts timed by hand"),
            say(
                "Print the card and fill it in at the PC. Then type it in here as you read it: "
                "each row becomes a boot, and all of them are one step that can be undone."
            ),
        )
        self._desk = desk
        self._number: int | None = None
        self.rows: tuple[CardRow | None, ...] = ()
        self.view = QTableWidget(CARD_ROWS, BECOMES + 1)
        self.view.setAccessibleName(say("Starts timed by hand"))
        self.view.setHorizontalHeaderLabels([*headings(), say("becomes")])
        header = self.view.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap)
        header.setFixedHeight(HEADING_LINES * self.fontMetrics().lineSpacing() + 10)
        header.setDefaultSectionSize(digits_wide(TIME_DIGITS))
        header.resizeSection(0, digits_wide(BEGUN_DIGITS))
        header.setSectionResizeMode(BECOMES, QHeaderView.ResizeMode.Stretch)
        self.view.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.view.itemChanged.connect(lambda _item: self._show_rows())
        self.body.addWidget(self.view, 1)
        self.add_button(say("Print the card…")).clicked.connect(self.ask_and_print)
        self.add_button(say("Save the card…")).clicked.connect(self.ask_and_save)
        self.add_button(say("Cancel")).clicked.connect(self.leave)
        self.take_button = self.add_button("", main=True)
        self.take_button.clicked.connect(self.take)

    def begin(self) -> None:
        """What was typed for this job and left, or else empty rows."""
        number = self._desk.job.number if self._desk.job is not None else None
        if number != self._number:
            self._number = number
            self._clear()
        self.refuse(None)
        self._show_rows()
        self.view.setCurrentCell(0, 0)
        self.view.setFocus()

    def _clear(self) -> None:
        self.view.blockSignals(True)
        for row in range(CARD_ROWS):
            for column in range(BECOMES + 1):
                item = QTableWidgetItem()
                if column == BECOMES:
                    item.setFlags(Qt.ItemFlag.ItemIsEnabled)
                self.view.setItem(row, column, item)
        self.view.blockSignals(False)

    def _text(self, row: int, column: int) -> str:
        item = self.view.item(row, column)
        return item.text() if item is not None else ""

    def _show_rows(self) -> None:
        cells = [[self._text(row, at) for at in range(BECOMES)] for row in range(CARD_ROWS)]
        self.rows = read_card(cells)
        self.view.blockSignals(True)
        for at, row in enumerate(self.rows):
            item = self.view.item(at, BECOMES)
            if item is not None:
                item.setText(row_in_words(row))
                is_bad = row is not None and row.fault is not None
                item.setForeground(QColor(ink().lost if is_bad else ink().ink))
        self.view.blockSignals(False)
        good = sum(row is not None and row.fault is None for row in self.rows)
        self.take_button.setText(boots_button(good))
        self.take_button.setEnabled(good > 0)

    def take(self) -> None:
        """Put the boots into the book."""
        number, rows = self._number, self.rows

        def done(boots: int) -> None:
            self._clear()
            self.leave()
            self._desk.door.say(taken_in(boots))

        if number is not None:
            self._desk.do(lambda ledger: take_in_card(ledger, number, rows), done)

    def ask_and_save(self) -> None:
        """Choose a file for the card."""
        job = self._desk.job
        if job is not None:
            name = home_folder() / f"card-{job.card.label}.pdf"
            kinds = say("Pages (*.pdf *.html)")
            ask_where_to_save(self, say("Save the card"), name, kinds, self.save)

    def save(self, path: Path) -> None:
        """Save the card; the file's ending says as what."""
        job = self._desk.job
        if job is None:
            return
        card = card_in_words(job.card)
        sentence = say("The card is in {path}.", path=str(path))
        self._desk.executor.ask(
            f"save {path}",
            lambda: save_card(card, path),
            lambda _none: self._desk.door.say(sentence),
        )

    def ask_and_print(self) -> None:
        """Choose a printer, and print the card."""
        ask_for_printer(self, self.print_to)

    def print_to(self, printer: QPrinter) -> None:
        """Print the card."""
        job = self._desk.job
        if job is not None:
            document = QTextDocument()
            document.setHtml(card_html(card_in_words(job.card)))
            printer.setPageOrientation(QPageLayout.Orientation.Landscape)
            document.print_(printer)
            self._desk.door.say(say("The card is sent to the printer."))
