"""What is shown taken out of the window: a table as a file, a view as a picture, on paper."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QScrollArea, QTableView, QWidget

from plucky_ledger.ui.book.book_view import BookView
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.dialogs import ask_where_to_save
from plucky_ledger.ui.drawing.pictures import of_widget
from plucky_ledger.ui.lenses.headed_model import cells_of
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.right_page import RightPage
from plucky_ledger.ui.saving_pictures import save_picture_of
from plucky_ledger.usecases.jobs.saving import save_table
from plucky_ledger.usecases.jobs.workplace import home_folder
from plucky_ledger.wording.figures import list_separator
from plucky_ledger.wording.language import say


class TakingOut:
    """Takes out what the lens in use shows."""

    def __init__(self, desk: Desk, book: BookView, right: RightPage) -> None:
        self._desk = desk
        self._book = book
        self._right = right

    @property
    def table(self) -> QTableView | None:
        """The table in sight; None without one."""
        tables = self._right.shown.findChildren(QTableView)
        return next((table for table in tables if table.isVisible()), None)

    def ask_and_save_table(self) -> None:
        """Choose a file for the table in sight."""
        job = self._desk.job
        if job is None or self.table is None:
            return
        name = f"{self._right.lens.value}-{job.card.label}.csv"
        ask_where_to_save(
            self._right, say("Save the table"), home_folder() / name, "CSV (*.csv)", self.save_table
        )

    def save_table(self, path: Path) -> None:
        """Save the table in sight with its headings, as spreadsheets of this country read it."""
        table = self.table
        model = table.model() if table is not None else None
        if model is None:
            return
        columns = range(model.columnCount())
        headings = [
            str(model.headerData(column, Qt.Orientation.Horizontal) or "") for column in columns
        ]
        rows = [headings, *(cells_of(model, row) for row in range(model.rowCount()))]
        separator = list_separator()
        sentence = say("The table is in {path}.", path=str(path))
        self._desk.executor.ask(
            f"save {path}",
            lambda: save_table(rows, separator, path),
            lambda _none: self._desk.door.say(sentence),
        )

    def copy_picture(self) -> None:
        """The view in sight as a picture, for another program to paste."""
        QGuiApplication.clipboard().setPixmap(self._right.shown.grab())
        self._desk.door.say(say("The picture is copied."))

    def ask_and_save_view(self) -> None:
        """Choose a file for the lens in use as a picture."""
        self._ask_and_save(self._right.lens.value, self._right.shown)

    def ask_and_save_book(self) -> None:
        """Choose a file for the book's page as a picture."""
        self._ask_and_save("book", self._book)

    def _ask_and_save(self, name: str, view: QWidget) -> None:
        job = self._desk.job
        if job is not None:
            ask_where_to_save(
                self._right,
                say("Save the picture"),
                home_folder() / f"{name}-{job.card.label}.svg",
                say("Pictures (*.svg *.png)"),
                lambda path: self.save_view(view, path),
            )

    def save_view(self, view: QWidget, path: Path) -> None:
        """Save a view as SVG or PNG, with what can be scrolled to in it."""
        job = self._desk.job
        scrolled = [area for area in view.findChildren(QScrollArea) if area.isVisible()]
        whole = (scrolled[0].widget() if scrolled else None) or view
        data = of_widget(whole, job.card.label if job is not None else "", path.suffix.lower())
        save_picture_of(self._desk, data, path)

    def print_statement(self) -> None:
        """To the statement, and on paper."""
        self._right.show_lens(LensName.STATEMENT)
        self._right.statement.print_when_ready()
