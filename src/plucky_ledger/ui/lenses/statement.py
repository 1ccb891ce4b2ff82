"""The Statement lens: what the owner gets, to look at and to save."""

from collections.abc import Callable, Mapping
from pathlib import Path

from PySide6.QtCore import QByteArray, Qt, QUrl, Signal
from PySide6.QtGui import QImage, QPainter, QTextDocument
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QTextBrowser,
    QVBoxLayout,
)

from plucky_ledger.pages.entries import entries_page
from plucky_ledger.pages.statement import first_measured, statement_page
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.dialogs import ask_for_printer, ask_where_to_save
from plucky_ledger.ui.lenses.lens import Lens
from plucky_ledger.ui.lenses.statement_style import StatementStyleButton
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.changing.decisions import decisions_in
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.workplace import home_folder
from plucky_ledger.usecases.reading.statements import (
    Statement,
    StatementStyle,
    as_html,
    pictures_svg,
    preferred_style,
    save_statement,
)
from plucky_ledger.wording.language import say, speaking
from plucky_ledger.wording.statement import statement_in_words

_Made = tuple[Statement, StatementStyle, str, Mapping[str, str]]
"""The statement, how it is made, as HTML, and its pictures by name."""


class StatementLens(Lens):
    """A preview of the statement and the buttons that save it.

    Signals:
        made(): it is there.
    """

    made = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._statement: Statement | None = None
        self.preview = QTextBrowser()
        self.preview.setOpenLinks(False)
        self.preview.setAccessibleName(say("Preview of the statement"))
        save_pdf_button = QPushButton(say("Save as PDF…"))
        save_pdf_button.setProperty("main", True)
        save_pdf_button.clicked.connect(lambda: self.ask_and_save("pdf"))
        save_html_button = QPushButton(say("Save as HTML…"))
        save_html_button.clicked.connect(lambda: self.ask_and_save("html"))
        head, foot = QHBoxLayout(), QHBoxLayout()
        hint = Text(say("Figures are in the book's measure."))
        hint.setProperty("quiet", True)
        hint.setWordWrap(True)
        head.addWidget(hint, 1)
        self.style_button = StatementStyleButton(desk)
        self.style_button.changed.connect(self.refresh)
        head.addWidget(self.style_button)
        foot.addStretch(1)
        print_button = QPushButton(say("Print…"))
        print_button.clicked.connect(self.ask_and_print)
        foot.addWidget(print_button)
        foot.addWidget(save_html_button)
        foot.addWidget(save_pdf_button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 8, 14, 10)
        layout.addLayout(head)
        layout.addWidget(self.preview, 1)
        layout.addLayout(foot)

    def refresh(self) -> None:
        """Show the statement as it would be saved now: at first without what entries cost, which
        takes a moment.
        """
        at_once, whole = self._maker(with_entries=False), self._maker()
        if at_once is None or whole is None:
            return
        self._statement = None
        self._desk.executor.ask("statement", lambda: _in_html(at_once), self._show_at_once)
        self._desk.executor.work_out("statement", lambda: _in_html(whole), self._show)

    def _maker(
        self, *, with_entries: bool = True
    ) -> Callable[[], tuple[Statement, StatementStyle]] | None:
        """Makes the statement as it is now, off this thread; None without a job."""
        job, measure, shop = self._desk.job, self._desk.measure, self._desk.workshop
        if job is None:
            return None

        def make() -> tuple[Statement, StatementStyle]:
            boots, entries = first_measured(job), None
            if with_entries:
                entries = entries_page(shop.ledger, job.number, boots, shop.costs, shop.memory)
            decided = decisions_in(shop.ledger, job.number)
            page, style = statement_page(job, measure, decided, entries), preferred_style()
            with speaking(style.language):
                return statement_in_words(page, now(), style.letterhead, style.parts), style

        return make

    def _show_at_once(self, made: _Made) -> None:
        if self._statement is None:
            self._preview(made)

    def _show(self, made: _Made) -> None:
        self._statement = made[0]
        self._preview(made)
        self.made.emit()

    def _preview(self, made: _Made) -> None:
        _, style, html, pictures = made
        self.style_button.show_style(style)
        document = self.preview.document()
        for name, picture in pictures.items():
            document.addResource(
                QTextDocument.ResourceType.ImageResource, QUrl(name), _picture(picture)
            )
        at = self.preview.verticalScrollBar().value()
        self.preview.setHtml(html)
        self.preview.verticalScrollBar().setValue(at)

    def ask_and_save(self, ending: str) -> None:
        """Ask for a file and save the statement there, as PDF or HTML."""
        if self._desk.job is None:
            return
        name = f"statement-{self._desk.job.card.label}.{ending}"
        kinds = f"{ending.upper()} (*.{ending})"
        ask_where_to_save(self, say("Save the statement"), home_folder() / name, kinds, self.save)

    def print_when_ready(self) -> None:
        """Ask for a printer as soon as the statement is there."""
        if self._statement is not None:
            self.ask_and_print()
        else:
            self.made.connect(self.ask_and_print, Qt.ConnectionType.SingleShotConnection)

    def ask_and_print(self) -> None:
        """Choose a printer in the desktop's own dialog, and print it."""
        ask_for_printer(self, self.print_to)

    def print_to(self, printer: QPrinter) -> None:
        """Print the statement as it is previewed."""
        if self._statement is not None:
            self.preview.document().print_(printer)
            self._desk.door.say(say("The statement is sent to the printer."))

    def save(self, path: Path) -> None:
        """Save the statement as it is now to a file, in sight or not; its ending says as what."""
        make = self._maker()
        if make is None:
            return
        sentence = say("The statement is in {path}.", path=str(path))
        self._desk.executor.ask(
            f"save {path}",
            lambda: save_statement(make()[0], path),
            lambda _none: self._desk.door.say(sentence),
        )


def _in_html(make: Callable[[], tuple[Statement, StatementStyle]]) -> _Made:
    statement, style = make()
    return statement, style, as_html(statement, names_pictures=True), pictures_svg(statement)


def _picture(svg: str) -> QImage:
    renderer = QSvgRenderer(QByteArray(svg.encode()))
    image = QImage(renderer.defaultSize(), QImage.Format.Format_ARGB32)
    image.fill(0)
    painter = QPainter(image)
    renderer.render(painter)
    painter.end()
    return image
