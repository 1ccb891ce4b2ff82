"""Preferences: how it looks, and what is usual on this bench."""

from collections.abc import Mapping
from typing import Any

from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QSpinBox

from plucky_ledger.core.pc.arming import LONGEST_LOOK_SECONDS, MOST_BOOTS
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel, form
from plucky_ledger.ui.theme import (
    APPEARANCES,
    TEXT_SIZES,
    Appearance,
    appearance,
    choose_appearance,
    choose_text_size,
    text_size,
)
from plucky_ledger.usecases.jobs.logs import use_level
from plucky_ledger.usecases.jobs.preferences import (
    Preferences,
    keep_preferences,
    preferences_file,
    read_preferences,
)
from plucky_ledger.wording.language import N_, say

LOG_LEVELS = {
    "warning": N_("What goes wrong"),
    "info": N_("What is done"),
    "debug": N_("Everything"),
}


class PreferencesPanel(Panel):
    """A form; what is kept holds at once, but for the size of the text."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Preferences"))
        self._desk = desk
        self.appearance = _choice(
            say("Appearance"), {one: say(words) for one, words in APPEARANCES.items()}
        )
        self.text_size = _choice(say("Text size"), {size: f"{size} %" for size in TEXT_SIZES})
        self.boots = QSpinBox()
        self.boots.setRange(1, MOST_BOOTS)
        self.look = QDoubleSpinBox()
        self.look.setRange(0.0, LONGEST_LOOK_SECONDS / 60)
        self.look.setDecimals(0)
        self.look.setSpecialValueText(say("not at all"))
        self.look.setSuffix(" min")
        self.log_level = _choice(
            say("In the log"), {level: say(words) for level, words in LOG_LEVELS.items()}
        )
        rows = form()
        for words, field in (
            (say("Appearance"), self.appearance),
            (say("Text size"), self.text_size),
            (say("Boots to record at once"), self.boots),
            (say("Look on after it has settled"), self.look),
            (say("In the log"), self.log_level),
        ):
            field.setAccessibleName(words)
            field.setMaximumWidth(220)
            rows.addRow(words, field)
        self.body.addLayout(rows)
        self.body.addStretch(1)
        leave = self.add_button(say("Leave it"))
        leave.clicked.connect(self.leave)
        usual = self.add_button(say("As usual"))
        usual.clicked.connect(self._show_usual)
        self.keep_button = self.add_button(say("Keep"), main=True)
        self.keep_button.clicked.connect(self.keep)

    def begin(self) -> None:
        """Show what is preferred now."""
        self.refuse(None)
        kept_in = preferences_file()
        self.retitle(
            say("Preferences"),
            say(
                "Of this user, whichever ledger is open; grades and the search address belong to "
                "the ledger. They are kept in {file}.",
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
        self._show(Preferences(), Appearance.AS_DESKTOP, TEXT_SIZES[0])

    def _show(self, preferences: Preferences, look: Appearance, size: int) -> None:
        for box, value in (
            (self.appearance, look),
            (self.text_size, size),
            (self.log_level, preferences.log_level),
        ):
            box.setCurrentIndex(max(0, box.findData(value)))
        self.boots.setValue(preferences.boots)
        self.look.setValue(preferences.look_minutes)


def _choice(name: str, choices: Mapping[Any, str]) -> QComboBox:
    box = QComboBox()
    box.setAccessibleName(name)
    for value, words in choices.items():
        box.addItem(words, value)
    return box
