"""Preferences: how it looks, and what is usual on this bench."""

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QSpinBox,
)

from plucky_ledger.core.pc.arming import LONGEST_LOOK_SECONDS, MOST_BOOTS
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.ui.choices import Chooser
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel, form
from plucky_ledger.ui.theme import (
    APPEARANCES,
    TEXT_SIZES,
    Appearance,
    appearance,
    choose_appearance,
    choose_text_size,
    digits_wide,
    text_size,
)
from plucky_ledger.usecases.jobs.logs import use_level
from plucky_ledger.usecases.jobs.preferences import (
    Preferences,
    keep_preferences,
    preferences_file,
    read_preferences,
)
from plucky_ledger.wording.language import N_, language_name, languages, say

FIELD_DIGITS = 36
LOG_LEVELS = {
    "warning": N_("Problems only"),
    "info": N_("Actions"),
    "debug": N_("Everything"),
}


class PreferencesPanel(Panel):
    """A form; what is kept holds at once, but for the size of the text and the language.

    Signals:
        grades_wanted(), search_address_wanted(): to the pages that have these.
    """

    grades_wanted = Signal()
    search_address_wanted = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Preferences"))
        self._desk = desk
        self.appearance = _choice(
            say("Appearance"), {one: say(words) for one, words in APPEARANCES.items()}
        )
        self.text_size = _choice(say("Text size"), {size: f"{size} %" for size in TEXT_SIZES})
        self.language = _choice(
            say("Language"),
            {"": say("Like the system"), **{code: language_name(code) for code in languages()}},
        )
        self.boots = QSpinBox()
        self.boots.setRange(1, MOST_BOOTS)
        self.look = QDoubleSpinBox()
        self.look.setRange(0.0, LONGEST_LOOK_SECONDS / 60)
        self.look.setDecimals(0)
        self.look.setSpecialValueText(say("never"))
        self.look.setSuffix(" min")
        self.log_level = _choice(
            say("In the log"), {level: say(words) for level, words in LOG_LEVELS.items()}
        )
        self.drop_folder = QLineEdit()
        self.drop_folder.setPlaceholderText(say("path of a folder where recordings arrive"))
        self.workshop = QLineEdit()
        self.address = QPlainTextEdit()
        self.address.setTabChangesFocus(True)
        self.address.setFixedHeight(3 * self.fontMetrics().lineSpacing() + 14)
        self.mark = QLineEdit()
        self.mark.setPlaceholderText(say("path of a picture, PNG or JPEG"))
        rows = form()
        for words, field in (
            (say("Appearance"), self.appearance),
            (say("Text size"), self.text_size),
            (say("Language"), self.language),
            (say("Boots to record at once"), self.boots),
            (say("Keep watching after settled"), self.look),
            (say("In the log"), self.log_level),
            (say("Folder for recordings"), self.drop_folder),
            (say("Workshop's name"), self.workshop),
            (say("Workshop's address"), self.address),
            (say("Workshop's mark"), self.mark),
        ):
            field.setAccessibleName(words)
            field.setMaximumWidth(digits_wide(FIELD_DIGITS))
            rows.addRow(words, field)
        of_ledger = QHBoxLayout()
        of_ledger.setSpacing(8)
        for words, wanted in (
            (say("Grades…"), self.grades_wanted),
            (say("Search address…"), self.search_address_wanted),
        ):
            button = QPushButton(words)
            button.clicked.connect(wanted)
            of_ledger.addWidget(button)
        of_ledger.addStretch(1)
        rows.addRow(say("Of this ledger"), of_ledger)
        self.body.addLayout(rows)
        self.body.addStretch(1)
        leave = self.add_button(say("Cancel"))
        leave.clicked.connect(self.leave)
        usual = self.add_button(say("Default"))
        usual.clicked.connect(self._show_usual)
        self.keep_button = self.add_button(say("Save"), main=True)
        self.keep_button.clicked.connect(self.keep)

    def begin(self) -> None:
        """Show what is preferred now."""
        self.refuse(None)
        kept_in = preferences_file()
        self.retitle(
            say("Preferences"),
            say(
                "These are yours, in every ledger; the workshop heads each statement. Grades and "
                "the search address belong to the ledger. Saved in {file}.",
                file=str(kept_in) if kept_in is not None else say("no file"),
            ),
        )
        self._desk.executor.ask(
            "preferences",
            read_preferences,
            lambda kept: self._show(kept, appearance(), text_size()),
        )
        self.appearance.setFocus()

    def keep(self) -> None:
        """From now on, and at the next start."""
        wanted = Preferences(
            boots=self.boots.value(),
            look_minutes=self.look.value(),
            log_level=self.log_level.currentData(),
            language=self.language.currentData(),
            drop_folder=self.drop_folder.text().strip(),
            workshop=self.workshop.text().strip(),
            address=self.address.toPlainText().strip(),
            mark=self.mark.text().strip(),
        )
        self._desk.executor.run(
            lambda _errand: keep_preferences(wanted), lambda _none: self._kept(wanted), self._failed
        )

    def _kept(self, wanted: Preferences) -> None:
        choose_appearance(Appearance(self.appearance.currentData()))
        choose_text_size(self.text_size.currentData())
        use_level(wanted.log_level)
        self.leave()

    def _failed(self, error: Exception) -> None:
        if not isinstance(error, Trouble):
            raise error
        self.refuse(error)

    def _show_usual(self) -> None:
        usual = Preferences(
            drop_folder=self.drop_folder.text(),
            workshop=self.workshop.text(),
            address=self.address.toPlainText(),
            mark=self.mark.text(),
        )
        self._show(usual, Appearance.AS_DESKTOP, TEXT_SIZES[0])

    def _show(self, preferences: Preferences, look: Appearance, size: int) -> None:
        for box, value in (
            (self.appearance, look),
            (self.text_size, size),
            (self.log_level, preferences.log_level),
            (self.language, preferences.language),
        ):
            box.setCurrentIndex(max(0, box.findData(value)))
        self.boots.setValue(preferences.boots)
        self.look.setValue(preferences.look_minutes)
        self.drop_folder.setText(preferences.drop_folder)
        self.workshop.setText(preferences.workshop)
        self.address.setPlainText(preferences.address)
        self.mark.setText(preferences.mark)


def _choice(name: str, choices: Mapping[Any, str]) -> QComboBox:
    box = Chooser(name)
    for value, words in choices.items():
        box.addItem(words, value)
    return box
