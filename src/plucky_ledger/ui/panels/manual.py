"""The manual, opened where it fits."""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeyEvent, QTextCursor
from PySide6.QtWidgets import QHBoxLayout, QTextBrowser

from plucky_ledger.ui.choices import ChoiceRow, Chooser
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.search_field import SearchField
from plucky_ledger.usecases.jobs.manual import Part, heading_in, headings, text_of
from plucky_ledger.wording.language import N_, current_language, say

TITLES = {Part.MANUAL: N_("Manual"), Part.METHODS: N_("How the numbers are made")}


class ManualPanel(Panel):
    """Both parts of the book about this program, a section at a time in sight."""

    def __init__(self) -> None:
        super().__init__("")
        self._title.hide()  # the two parts say what it is
        self._hint.hide()
        self.part = Part.MANUAL
        self._parts = ChoiceRow(say("Part of the manual"), map(say, TITLES.values()), tabs=True)
        self._parts.chosen.connect(lambda at: self.begin(list(TITLES)[at]))
        self.sections = Chooser(say("Section"))
        self.sections.activated.connect(lambda at: self._go_to(self.sections.itemText(at)))
        self.search = SearchField(say("Find in the manual"), say("find in it"))
        self.search.setMaximumWidth(180)
        self.search.returnPressed.connect(self.find_next)
        row = QHBoxLayout()
        row.addWidget(self._parts)
        row.addStretch(1)
        row.addWidget(self.search)
        row.addWidget(self.sections)
        self.body.addLayout(row)
        self.page = QTextBrowser()
        self.page.setOpenExternalLinks(False)
        self.page.setOpenLinks(False)
        self.page.setAccessibleName(say("Manual"))
        self.body.addWidget(self.page, 1)
        self._stood_at = -1
        self.page.verticalScrollBar().rangeChanged.connect(self._laid_out_anew)
        leave = self.add_button(say("Back"), main=True)
        leave.clicked.connect(self.leave)

    def begin(self, part: Part = Part.MANUAL, section: str = "") -> None:
        """Open a part, at a section by its English heading."""
        self.part = part
        self._parts.take(list(TITLES).index(part))
        language = current_language()
        self.page.setMarkdown(text_of(part, language))
        self.sections.clear()
        self.sections.addItems(headings(part, language))
        self._go_to(heading_in(part, section, language))
        self.page.setFocus()

    def find_next(self) -> None:
        """The next place that says what is looked for; after the last, the first again."""
        wanted = self.search.text()
        if wanted and not self.page.find(wanted):
            self.page.moveCursor(QTextCursor.MoveOperation.Start)
            self.page.find(wanted)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Return in the search field looks on; it does not leave the page."""
        returns = event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}
        if not (returns and self.search.hasFocus()):
            super().keyPressEvent(event)

    @property
    def section(self) -> str:
        """The section it was opened at."""
        return self.sections.currentText()

    def _go_to(self, section: str) -> None:
        self.sections.setCurrentText(section)
        block = self.page.document().begin()
        while block.isValid():
            if block.blockFormat().headingLevel() == 2 and block.text() == section:
                self.page.setTextCursor(QTextCursor(block))
                # Where it stands is known once the page is as wide as it will be.
                QTimer.singleShot(0, self, self._to_the_top)
                return
            block = block.next()

    def _to_the_top(self) -> None:
        """Scroll the section that was gone to up to the top."""
        block = self.page.textCursor().block()
        top = self.page.document().documentLayout().blockBoundingRect(block).top()
        bar = self.page.verticalScrollBar()
        bar.setValue(int(top))
        self._stood_at = bar.value()

    def _laid_out_anew(self) -> None:
        """Still at the section that was gone to, unless somebody has scrolled on."""
        if self.page.verticalScrollBar().value() == self._stood_at:
            self._to_the_top()
