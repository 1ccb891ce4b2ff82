"""The Statement lens: what the owner gets, to look at and to save."""

from pathlib import Path

from PySide6.QtCore import QByteArray, QUrl
from PySide6.QtGui import QImage, QPainter, QTextDocument
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.exchange.statement import Statement, as_html, picture_svg, save_html, save_pdf
from plucky_ledger.pages.statement import statement_of
from plucky_ledger.ui.desk import Desk

PICTURE = "staircase.svg"


class StatementLens(QWidget):
    """A preview of the statement and the buttons that save it."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._statement: Statement | None = None
        self.preview = QTextBrowser()
        self.preview.setOpenLinks(False)
        self.preview.setAccessibleName("Preview of the statement")
        save_pdf_button = QPushButton("Save as PDF…")
        save_pdf_button.setProperty("main", True)
        save_pdf_button.clicked.connect(lambda: self._ask_and_save("pdf"))
        save_html_button = QPushButton("Save as HTML…")
        save_html_button.clicked.connect(lambda: self._ask_and_save("html"))
        foot = QHBoxLayout()
        hint = QLabel("The figures are kept in the measure the book is kept in.")
        hint.setProperty("quiet", True)
        foot.addWidget(hint, 1)
        foot.addWidget(save_html_button)
        foot.addWidget(save_pdf_button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 8, 14, 10)
        layout.addWidget(self.preview, 1)
        layout.addLayout(foot)

    def refresh(self) -> None:
        """Show the statement as it would be saved now."""
        if self._desk.job is None:
            return
        statement = self._statement = statement_of(self._desk.job, self._desk.measure)
        document = self.preview.document()
        document.addResource(
            QTextDocument.ResourceType.ImageResource, QUrl(PICTURE), _picture(statement)
        )
        at = self.preview.verticalScrollBar().value()
        self.preview.setHtml(as_html(statement, PICTURE))
        self.preview.verticalScrollBar().setValue(at)

    def _ask_and_save(self, ending: str) -> None:
        if self._desk.job is None:
            return
        name = f"statement-{self._desk.job.card.label}.{ending}"
        chosen, _ = QFileDialog.getSaveFileName(
            self, "Save the statement", str(Path.home() / name), f"{ending.upper()} (*.{ending})"
        )
        if chosen:
            self.save(Path(chosen))

    def save(self, path: Path) -> None:
        """Save the statement to a file; its ending says as what."""
        statement = self._statement
        if statement is None:
            return
        write = save_html if path.suffix == ".html" else save_pdf
        self._desk.work(
            lambda: write(statement, path),
            lambda _none: self._desk.say(f"The statement is in {path}."),
        )


def _picture(statement: Statement) -> QImage:
    renderer = QSvgRenderer(QByteArray(picture_svg(statement).encode()))
    image = QImage(renderer.defaultSize(), QImage.Format.Format_ARGB32)
    image.fill(0)
    painter = QPainter(image)
    renderer.render(painter)
    painter.end()
    return image
