"""Advice: why it is still slow, finding by finding, with what would help."""

from dataclasses import dataclass
from html import escape

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QFrame,
    QGridLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.advice.finding import Finding
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.pc.condition import Condition
from plucky_ledger.pages.why import WhyPage, why_page
from plucky_ledger.ui.deciding import Deciding
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.drawing.evidence import EvidencePicture
from plucky_ledger.ui.text import Text, explain, paragraph, small
from plucky_ledger.ui.theme import title_font
from plucky_ledger.usecases.reading.advice import (
    follow_advice,
    inspect,
    keep_inspected,
    put_on_statement,
    why,
)
from plucky_ledger.wording.advice import (
    AdviceWords,
    advice_in_words,
    in_short,
    rests_on,
    takes,
    wins,
)
from plucky_ledger.wording.basis import Basis
from plucky_ledger.wording.condition import facts_in_words
from plucky_ledger.wording.language import say
from plucky_ledger.wording.why_basis import of_finding


@dataclass(frozen=True)
class _Told:
    """The page with its words, found off the window's thread."""

    page: WhyPage
    words: tuple[AdviceWords, ...]


class AdviceView(QScrollArea):
    """The answer as one sentence, then the findings, costliest first.

    Signals:
        entry_wanted(str): the entry that a finding is about is to be seen.
    """

    entry_wanted = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._deciding = Deciding(desk)
        self.page: WhyPage | None = None
        """None while it is being worked out."""
        self._of: Job | None = None
        self.pencil_buttons: dict[str, QPushButton] = {}
        """By the findings' keys."""
        self.statement_boxes: dict[str, QCheckBox] = {}
        self.ask_button = QPushButton()
        self._rows: dict[str, tuple[Finding, list[QWidget]]] = {}
        """By the findings' keys, with what stands in its row."""
        self.setAccessibleName(say("What to do"))
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def refresh(self) -> None:
        """Show why, as soon as it is worked out. It is about the PC as it is now, on every line."""
        job, shop = self._desk.job, self._desk.workshop
        if job is None or job is self._of:
            return
        if self._of is None or self._of.number != job.number:
            self.setWidget(_quietly(say("Checking this PC…")))
        self._of, self.page = job, None

        def work() -> _Told:
            page = why_page(why(shop.ledger, job.number, shop.analyses, shop.costs))
            return _Told(page, tuple(map(advice_in_words, page.findings)))

        def known(told: _Told) -> None:
            if self._desk.job is job:
                self.page = told.page
                self._replace(told)

        def failed(error: Exception) -> None:
            self._of = None  # the next look tries again
            self.setWidget(_quietly(say("It could not be worked out. Your boots are kept.")))
            self._desk.door.trouble(error)

        self._desk.executor.work_out("why", work, known, failed=failed)

    def _replace(self, told: _Told) -> None:
        """Show the findings anew where the reader is: at the same place, with the same focus."""
        at = self.verticalScrollBar().value()
        held = [
            (key, place)
            for key, (_, widgets) in self._rows.items()
            for place, widget in enumerate(widgets)
            if widget.hasFocus()
        ]
        self.setWidget(self._built(told))
        self.verticalScrollBar().setValue(at)
        for key, place in held:
            _, widgets = self._rows.get(key, (None, []))
            can = [widget for widget in widgets[place:] if widget.focusPolicy()]
            if can:
                can[0].setFocus()

    @property
    def chosen(self) -> Finding | None:
        """The finding in whose row the keyboard is; the first where it is in none."""
        for finding, widgets in self._rows.values():
            if any(widget.hasFocus() for widget in widgets):
                return finding
        return next((finding for finding, _ in self._rows.values()), None)

    def pencil_chosen(self) -> None:
        """Pencil what the chosen finding advises, where it is not yet."""
        if (chosen := self.chosen) is not None:
            button = self.pencil_buttons.get(chosen.advised.key)
            if button is not None:
                button.click()

    def tell_the_owner_of_chosen(self) -> None:
        """Put the chosen finding on the statement, or take it off."""
        if (chosen := self.chosen) is not None:
            self.statement_boxes[chosen.advised.key].click()

    def to_entry_of_chosen(self) -> None:
        """To the entry the chosen finding is about, if it is about one."""
        chosen = self.chosen
        if chosen is not None and chosen.entries:
            self.entry_wanted.emit(chosen.entries[0])

    @property
    def basis(self) -> Basis | None:
        """What the chosen finding rests on."""
        chosen = self.chosen
        return of_finding(chosen, self.page) if chosen is not None and self.page else None

    def _built(self, told: _Told) -> QWidget:
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(16, 4, 20, 12)
        layout.setSpacing(6)
        answer = paragraph(escape(in_short(told.page)))
        answer.setFont(title_font(2.0))
        layout.addWidget(answer)
        layout.addWidget(paragraph(escape(rests_on(told.page)), quiet=True))
        layout.addSpacing(10)
        self.pencil_buttons, self.statement_boxes, self._rows = {}, {}, {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        for index, (finding, words) in enumerate(zip(told.page.findings, told.words, strict=True)):
            self._add(grid, 2 * index, finding, words)
        layout.addLayout(grid)
        if made_of := facts_in_words(told.page):
            layout.addSpacing(10)
            lines = (f"{escape(heading)}: {escape(text)}" for heading, text in made_of)
            layout.addWidget(paragraph(f"<b>{escape(say('This PC'))}</b>"))
            made = paragraph("<br>".join(lines), quiet=True)
            made.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            layout.addWidget(made)
        layout.addWidget(self._ask_button(), 0, Qt.AlignmentFlag.AlignLeft)
        layout.addStretch(1)
        return body

    def _add(self, grid: QGridLayout, row: int, finding: Finding, words: AdviceWords) -> None:
        """One finding: its evidence, its words, its button, and a rule below."""
        top = Qt.AlignmentFlag.AlignTop
        explained = _explained(finding, words)
        grid.addWidget(EvidencePicture(finding.drawing), row, 0, top)
        grid.addWidget(explained, row, 1, top)
        beside: list[QWidget] = []
        if words.change:
            beside.append(self._pencil_button(finding, words))
        beside.append(self._statement_box(finding, words))
        if finding.entries:
            beside.append(self._way_to_entry(finding.entries[0]))
        side = QVBoxLayout()
        for widget in beside:
            side.addWidget(widget)
        side.addStretch(1)
        self._rows[finding.advised.key] = finding, [explained, *beside]
        grid.addLayout(side, row, 2, top)
        rule = QFrame()
        rule.setProperty("rule", True)
        rule.setFixedHeight(1)
        grid.addWidget(rule, row + 1, 0, 1, 3)

    def _pencil_button(self, finding: Finding, words: AdviceWords) -> QWidget:
        assert self.page is not None
        if finding.advised.key in self.page.pencilled:
            done = Text(say("pencilled"))
            done.setProperty("quiet", True)
            return done
        button = QPushButton(say("Pencil it"))
        button.setAccessibleName(say("Pencil: {change}", change=words.change))
        button.setEnabled(self._desk.writable)
        button.clicked.connect(lambda: self._follow(finding, words))
        self.pencil_buttons[finding.advised.key] = button
        return button

    def _ask_button(self) -> QPushButton:
        self.ask_button = QPushButton(say("Read drive health (administrator)…"))
        explain(
            self.ask_button,
            say(
                "Asks once for the administrator's password. Reads wear, bad sectors and "
                "overdue file system checks."
            ),
        )
        self.ask_button.setEnabled(self._desk.writable)
        self.ask_button.clicked.connect(self._ask_the_drives)
        return self.ask_button

    def _ask_the_drives(self) -> None:
        job, desk = self._desk.job, self._desk
        if job is None:
            return
        number, ledger = job.number, desk.ledger
        self.ask_button.setEnabled(False)

        def told(condition: Condition) -> None:
            desk.do(lambda ledger: keep_inspected(ledger, number, condition))

        def failed(error: Exception) -> None:
            self.ask_button.setEnabled(True)
            desk.door.trouble(error)

        desk.executor.run(lambda _errand: inspect(ledger, number), told, failed)

    def _way_to_entry(self, entry_id: str) -> QPushButton:
        button = QPushButton(say("Show the entry"))
        button.setProperty("fold", True)
        button.clicked.connect(lambda: self.entry_wanted.emit(entry_id))
        return button

    def _statement_box(self, finding: Finding, words: AdviceWords) -> QCheckBox:
        """Whether the owner reads it in the statement."""
        assert self.page is not None
        box = QCheckBox(say("for the owner"))
        box.setAccessibleName(say("On the statement: {title}", title=words.title))
        explain(box, say("Tells the owner of it"))
        box.setChecked(finding.advised.key in self.page.on_statement)
        box.setEnabled(self._desk.writable)
        box.toggled.connect(lambda wanted: self._tell_the_owner(finding, wanted))
        self.statement_boxes[finding.advised.key] = box
        return box

    def _tell_the_owner(self, finding: Finding, wanted: bool) -> None:
        job = self._desk.job
        if job is not None:
            number = job.number
            self._desk.do(lambda ledger: put_on_statement(ledger, number, finding, wanted))

    def _follow(self, finding: Finding, words: AdviceWords) -> None:
        """Pencil what a finding advises; an entry is decided about, as anywhere else."""
        job = self._desk.job
        if finding.switch_off is not None:
            self._deciding.decide([finding.switch_off], Decision.OFF, reason=words.seen)
        elif job is not None:
            number = job.number
            self._desk.do(
                lambda ledger: follow_advice(ledger, number, finding, words.change, words.seen)
            )


def _quietly(sentence: str) -> QLabel:
    """A sentence where there are no findings to show."""
    text = Text(sentence)
    text.setProperty("quiet", True)
    text.setMargin(16)
    text.setAlignment(Qt.AlignmentFlag.AlignTop)
    return text


def _explained(finding: Finding, words: AdviceWords) -> QLabel:
    """What was seen, what it costs, what to do, and what speaks against it."""
    lines = (
        f"<b>{escape(words.title)}</b> {small(f'· {escape(takes(finding))}')}",
        escape(words.seen),
        f"<b>{escape(wins(finding))}</b>",
        escape(words.to_do),
        small(f"{escape(say('Consider first:'))} {escape(words.against)}"),
    )
    text = paragraph("<br>".join(line for line in lines if line != "<b></b>"))
    text.setFocusPolicy(Qt.FocusPolicy.ClickFocus)  # a press there chooses the finding
    return text
