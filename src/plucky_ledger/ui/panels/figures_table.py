"""Figures from a table: what each column means, and what becomes of each row, before it is done."""

from pathlib import Path

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QComboBox, QHeaderView, QTableWidget, QTableWidgetItem

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import tip
from plucky_ledger.ui.theme import digits_wide, ink
from plucky_ledger.usecases.recording.figures_tables import (
    Columns,
    FiguresTable,
    Row,
    Taken,
    guessed,
    previewed,
    read_table,
    take_in_table,
)
from plucky_ledger.wording.figures_table import button, meanings, row_in_words, taken_in
from plucky_ledger.wording.language import say
from plucky_ledger.wording.safe import shown

SHOWN_ROWS = 200
CHOICES_ROW, BECOMES = 0, 0
BECOMES_DIGITS = 42


class FiguresTablePanel(Panel):
    """The table with a choice above each column, and each row as the boot it would be."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            say("Figures from a table"),
            say(
                "Say above each column what it means. The first shows the boot that each row "
                "becomes, or the sample of one boot. Rows that are none are left out. It is one "
                "step, and can be undone."
            ),
        )
        self._desk = desk
        self._table: FiguresTable | None = None
        self._number = 0
        self.choices: list[QComboBox] = []
        """What each column means."""
        self.rows: tuple[Row, ...] = ()
        self.view = QTableWidget()
        self.view.setAccessibleName(say("The table"))
        self.view.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.view.setWordWrap(False)
        self.view.verticalHeader().hide()
        self.body.addWidget(self.view, 1)
        self.add_button(say("Cancel")).clicked.connect(self.leave)
        self.take_button = self.add_button("", main=True)
        self.take_button.clicked.connect(self.take)

    def begin(self, path: Path) -> None:
        """Read a table for the open job, and show it."""
        job = self._desk.job
        if job is not None:
            self._number = job.number
            self._desk.executor.ask("table", lambda: read_table(path), self.show_table)

    def show_table(self, table: FiguresTable) -> None:
        """Show a table, its columns as far as their headings tell."""
        self._table = table
        self.refuse(None)
        shown_rows = table.rows[:SHOWN_ROWS]
        columns = len(table.headings)
        self.view.clear()
        self.view.setColumnCount(columns + 1)
        self.view.setRowCount(len(shown_rows) + 1)
        self.view.setHorizontalHeaderLabels([say("becomes"), *map(shown, table.headings)])
        known = guessed(table.headings)
        self.choices = [self._choice(place, known) for place in range(columns)]
        for at, cells in enumerate(shown_rows, CHOICES_ROW + 1):
            for place, cell in enumerate(cells[:columns], BECOMES + 1):
                self.view.setItem(at, place, QTableWidgetItem(shown(cell)))
        header = self.view.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(BECOMES, QHeaderView.ResizeMode.Interactive)
        header.resizeSection(BECOMES, digits_wide(BECOMES_DIGITS))
        self._show_rows()

    def _choice(self, place: int, known: Columns) -> QComboBox:
        assert self._table is not None
        choice = QComboBox()
        for meaning, words in meanings():
            choice.addItem(words, meaning)
        choice.setCurrentIndex(max(0, choice.findText(dict(meanings())[known.get(place)])))
        choice.setAccessibleName(
            say("What “{column}” means", column=shown(self._table.headings[place]))
        )
        choice.currentIndexChanged.connect(lambda _index: self._show_rows())
        self.view.setCellWidget(CHOICES_ROW, BECOMES + 1 + place, choice)
        return choice

    @property
    def columns(self) -> Columns:
        """What the columns mean, as chosen."""
        chosen = ((place, choice.currentData()) for place, choice in enumerate(self.choices))
        return {place: meaning for place, meaning in chosen if meaning is not None}

    def _show_rows(self) -> None:
        if self._table is None:
            return
        self.rows = previewed(self._table, self.columns)
        for at, row in enumerate(self.rows[:SHOWN_ROWS], CHOICES_ROW + 1):
            words = row_in_words(row, self._table.headings)
            item = QTableWidgetItem(words)
            item.setToolTip(tip(words))
            if row.fault is not None:
                item.setForeground(QColor(ink().lost))
            self.view.setItem(at, BECOMES, item)
        self.take_button.setText(button(self.rows))
        self.take_button.setEnabled(any(row.fault is None for row in self.rows))

    def take(self) -> None:
        """Put the boots into the book."""
        number, table, columns = self._number, self._table, self.columns

        def done(taken: Taken) -> None:
            self.leave()
            self._desk.door.say(taken_in(taken))

        if table is not None:
            self._desk.do(lambda ledger: take_in_table(ledger, number, table, columns), done)
