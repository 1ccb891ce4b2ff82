"""The Statement lens: what the owner gets, to look at and to save."""

from collections.abc import Callable, Mapping
from functools import partial
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

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.dialogs import ask_for_printer, ask_where_to_save
from plucky_ledger.ui.executor import Errand
from plucky_ledger.ui.lenses.lens import Lens
from plucky_ledger.ui.lenses.statement_style import StatementStyleButton
from plucky_ledger.ui.statement_making import (
    statement_at_once,
    statement_made,
    statements_of_owner,
)
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.jobs.workplace import home_folder
from plucky_ledger.usecases.reading.statements import (
    PAGE_WIDTH,
    Statement,
    StatementStyle,
    as_html,
    pictures_svg,
    preferred_style,
    save_statement,
    save_statements,
)
from plucky_ledger.wording.language import say, say_n, speaking
from plucky_ledger.wording.statement import pcs_of

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
        self._of_job: int | None = None
        """Number of the job whose statement is in sight."""
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
        self.all_pcs_button = QPushButton(say("All PCs of this owner…"))
        self.all_pcs_button.clicked.connect(self.ask_and_save_all)
        self.all_pcs_button.hide()
        head.addWidget(self.all_pcs_button)
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

    @property
    def is_whole(self) -> bool:
        """Whether everything of it is there, what takes a moment included."""
        return self._statement is not None

    def refresh(self) -> None:
        """Show the statement as it would be saved now: at first without what entries cost, which
        takes a moment.
        """
        job, measure, shop = self._desk.job, self._desk.measure, self._desk.workshop
        if job is None:
            return
        self._statement = None
        self.all_pcs_button.setVisible(self._pcs_of_owner() > 1)
        if self._of_job != job.number:  # else what is in sight stays until the new one is whole
            self._desk.executor.ask(
                "statement at once",
                lambda: _in_html(partial(statement_at_once, shop, job, measure)),
                self._show_at_once,
            )
        self._of_job = job.number
        self._desk.executor.work_out(
            "statement",
            lambda: _in_html(partial(statement_made, shop, job, measure)),
            self._show,
        )

    def _pcs_of_owner(self) -> int:
        """How many PCs of the ledger are the owner's; 0 where nobody is named."""
        owner = self._desk.job.card.owner if self._desk.job is not None else ""
        return sum(spine.card.owner == owner for spine in self._desk.shelf) if owner else 0

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
        job, measure, shop = self._desk.job, self._desk.measure, self._desk.workshop
        if job is None:
            return
        self._desk.executor.ask(
            f"save {path}",
            lambda: save_statement(statement_made(shop, job, measure, preferred_style()), path),
            lambda _none: self._saved(path),
        )

    def _saved(self, path: Path) -> None:
        self._desk.door.say(say("The statement is in {path}.", path=str(path)))

    def ask_and_save_all(self) -> None:
        """Choose a file for the statements on all PCs of this owner."""
        if self._desk.job is not None:
            name = home_folder() / "statements.pdf"
            kinds = say("Statements (*.pdf *.html)")
            title = say("Save the statements on all PCs of this owner")
            ask_where_to_save(self, title, name, kinds, self.save_all)

    def save_all(self, path: Path) -> None:
        """Save the statements on all PCs of this owner as one, headed by what came of each."""
        if self._desk.job is None:
            return
        owner, shop = self._desk.job.card.owner, self._desk.workshop

        def work(errand: Errand) -> bool:
            style, made = preferred_style(), []
            for left, statement in statements_of_owner(shop, owner, style):
                if not errand.going_on:
                    return False
                made.append(statement)
                errand.tell(left)
            with speaking(style.language):
                title = pcs_of(owner)
            save_statements(made, title, path)
            return True

        def told(left: int) -> None:
            if left:
                self._desk.door.say(say_n("{n} PC to go.", "{n} PCs to go.", left))

        def done(is_saved: bool) -> None:
            if is_saved:
                self._saved(path)

        self._desk.executor.run(work, done, report=told)


def _in_html(make: Callable[[StatementStyle], Statement]) -> _Made:
    style = preferred_style()
    statement = make(style)
    return statement, style, as_html(statement, names_pictures=True), pictures_svg(statement)


def _picture(svg: str) -> QImage:
    renderer = QSvgRenderer(QByteArray(svg.encode()))
    size = renderer.defaultSize()
    if size.width() > PAGE_WIDTH:
        size.scale(PAGE_WIDTH, size.height(), Qt.AspectRatioMode.KeepAspectRatio)
    image = QImage(size, QImage.Format.Format_ARGB32)
    image.fill(0)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    renderer.render(painter)
    painter.end()
    return image
