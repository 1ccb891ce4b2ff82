"""The card beside the list of entries: what is known about one, and why it is decided so."""

from html import escape

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QLabel, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.pages.entries import EntryRow
from plucky_ledger.ui.choices import Chooser
from plucky_ledger.ui.text import Marked, Text
from plucky_ledger.ui.theme import digits_wide, named, title_font
from plucky_ledger.wording.entries import card_in_words, finding_wanted
from plucky_ledger.wording.labels import capital, label
from plucky_ledger.wording.language import say
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.switching import set_in_words

WIDTH_DIGITS = 27


class EntryCard(QWidget):
    """Explains one entry and takes the reason and the finding.

    Signals:
        state_chosen(EntryState): how the entry is to be set, more exactly than a decision says.
        reason_given(str): the reason was typed and Return pressed.
        finding_given(str): the same for what looking it up has told.
    """

    state_chosen = Signal(object)
    reason_given = Signal(str)
    finding_given = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._entry_id = ""
        self.setFixedWidth(digits_wide(WIDTH_DIGITS))
        self.title = Text()
        self.title.setFont(title_font(1.35))
        self.title.setWordWrap(True)
        self.text = Marked()
        self.text.setWordWrap(True)
        self.text.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._set = Marked()
        self._set.setWordWrap(True)
        self._set.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.states = Chooser(say("Set to"))
        self.states.activated.connect(
            lambda index: self.state_chosen.emit(self.states.itemData(index))
        )
        self._states_title = Marked(f"<b>{escape(say('Set to'))}</b>")
        self.reason, self._reason_title = _field(say("Reason"), say("reason, then Return"))
        self.finding, self._finding_title = _field(say("Finding"), say("what you found out"))
        self.reason.returnPressed.connect(lambda: self.reason_given.emit(self.reason.text()))
        self.finding.returnPressed.connect(lambda: self.finding_given.emit(self.finding.text()))
        self._lay_out()

    def _lay_out(self) -> None:
        side = named("side")
        side.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        scrolled = QScrollArea()
        scrolled.setWidgetResizable(True)
        scrolled.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scrolled.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inner = QWidget()
        layout = QVBoxLayout(inner)
        layout.setContentsMargins(0, 0, 4, 0)
        layout.addWidget(self.title)
        layout.addWidget(self._set)
        layout.addWidget(self.text)
        layout.addStretch(1)
        scrolled.setWidget(inner)
        layout = QVBoxLayout(side)
        layout.setContentsMargins(13, 12, 9, 8)
        layout.setSpacing(4)
        layout.addWidget(scrolled, 1)
        for widget in (
            self._states_title,
            self.states,
            self._finding_title,
            self.finding,
            self._reason_title,
            self.reason,
        ):
            layout.addWidget(widget)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(side)

    def show_row(self, row: EntryRow | None) -> None:
        """Explain an entry; nothing when none is selected."""
        self.setEnabled(row is not None)
        if row is None:
            self._entry_id = ""
            self.title.setText("")
            self.text.setText(say("Select an entry to see what is known about it."))
            self.show_states(None, None)
            return
        if self._entry_id != row.entry.entry_id:
            self.show_states(None, None)
        typing = self._entry_id == row.entry.entry_id and self.reason.hasFocus()
        self._entry_id = row.entry.entry_id
        decided = row.decided
        self.title.setText(shown(row.entry.name))
        self.text.setText("".join(_paragraph(head, text) for head, text in card_in_words(row)))
        if not typing:
            self.reason.setText(decided.reason if decided else "")
            self.reason.setCursorPosition(0)
        looked_up = finding_wanted(decided)
        self.finding.setVisible(looked_up)
        self._finding_title.setVisible(looked_up)
        if not self.finding.hasFocus():
            self.finding.setText(decided.finding if decided else "")

    def show_states(self, found: Switchable | None, wanted: EntryState | None) -> None:
        """How the entry is set on its PC, and to what it can be set; nothing where that is unknown.

        ``wanted`` is how it is pencilled.
        """
        self._set.setText("" if found is None else _paragraph(say("Set"), _set_line(found)))
        self._set.setVisible(found is not None)
        possible = found.possible if found is not None else ()
        self.states.clear()
        for state in possible:
            self.states.addItem(capital(label(state)), state)
        self.states.setCurrentIndex(
            self.states.findData(wanted or (found.state if found else None))
        )
        self.states.setVisible(bool(possible))
        self._states_title.setVisible(bool(possible))


def _set_line(found: Switchable) -> str:
    return "; ".join(set_in_words(found))


def _field(name: str, hint: str) -> tuple[QLineEdit, QLabel]:
    field, label = QLineEdit(), Marked(f"<b>{escape(name)}</b>")
    field.setPlaceholderText(hint)
    field.setAccessibleName(name)
    return field, label


def _paragraph(head: str, text: str) -> str:
    # Long paths may break after a slash.
    body = escape(text).replace("/", "/\u200b").replace("\n", "<br>")
    return f"<p><b>{head}</b><br>{body}</p>" if head else f"<p>{body}</p>"
