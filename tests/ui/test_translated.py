"""The window in a made-up language: what is not in it would stay English for everybody."""

import gettext

import pytest
from PySide6.QtWidgets import QAbstractButton, QLabel, QLineEdit

from plucky_ledger.ui.actions import Place
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.wording import language


class MadeUp(gettext.NullTranslations):
    """Sets every message in brackets, as a catalogue would replace it."""

    def gettext(self, message):
        return f"⟦{message}⟧"

    def pgettext(self, context, message):
        return self.gettext(message)

    def ngettext(self, one, many, number):
        return f"⟦{one if number == 1 else many}⟧"


@pytest.fixture
def made_up():
    language.use("en", MadeUp())
    yield
    language.use("en")


def test_nothing_said_in_the_window_is_left_untranslated(made_up, on_demo, qtbot):
    window = on_demo
    show = window.panels
    for panel in (
        show.show_write_down,
        show.show_typed,
        show.show_arming,
        show.show_look_up,
        show.show_grades,
        show.show_type_entries,
        show.show_recording,
        show.show_stopwatch,
        show.show_card,
    ):
        panel()
    window.show_keys()
    for lens in LensName:
        window.right.show_lens(lens)
    qtbot.waitUntil(lambda: window.right.entries.ready)
    for action in window.actions_made.made.values():
        assert "⟦" in action.text(), action.text()
    assert window.actions_made.context_menu(Place.BOOK, window).actions()
    for button in window.findChildren(QAbstractButton):
        if any(letter.isalpha() for letter in button.text()):
            assert "⟦" in button.text(), button.text()
    for field in window.findChildren(QLineEdit):
        if any(letter.isalpha() for letter in field.placeholderText()):
            assert "⟦" in field.placeholderText(), field.placeholderText()
    decided = [one.row.decided for one in window.right.entries.model.rows]
    data = {window._title.text(), *(one.reason for one in decided if one)}
    for label in window.findChildren(QLabel):
        words = [word for word in label.text().split() if word.isalpha() and word.islower()]
        if len(words) > 2 and label.text() not in data:
            assert "⟦" in label.text(), label.text()
    assert all("⟦" in row.spoken for row in window.book.model.words)
