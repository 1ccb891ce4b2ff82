"""What goes into the statement, and in which language: a button with a menu."""

from PySide6.QtCore import Signal
from PySide6.QtGui import QAction, QActionGroup
from PySide6.QtWidgets import QMenu, QPushButton

from plucky_ledger.ui.desk import Desk
from plucky_ledger.usecases.reading.statements import StatementPart, StatementStyle, keep_style
from plucky_ledger.wording.language import language_name, languages, say

OF_THE_DETAILS: tuple[StatementPart, ...] = ("entries", "boots", "starts")


class StatementStyleButton(QPushButton):
    """What is chosen is kept, for every statement.

    Signals:
        changed(): the next statement is another.
    """

    changed = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("What goes in"))
        self._desk = desk
        menu = QMenu(self)
        self.parts: dict[StatementPart, QAction] = {
            "details": menu.addAction(say("Pages for whoever works on this PC next")),
            "entries": menu.addAction(say("Every startup entry")),
            "boots": menu.addAction(say("Every boot")),
            "starts": menu.addAction(say("Pictures of two starts")),
            "signature": menu.addAction(say("A place to sign")),
        }
        for action in self.parts.values():
            action.setCheckable(True)
            action.triggered.connect(self._keep)
        menu.addSeparator()
        language_menu = menu.addMenu(say("Language"))
        one_of = QActionGroup(self)
        self.languages: dict[str, QAction] = {}
        for code in ("", *languages()):
            name = language_name(code) if code else say("Like the window")
            action = language_menu.addAction(name)
            action.setCheckable(True)
            action.triggered.connect(self._keep)
            one_of.addAction(action)
            self.languages[code] = action
        self.setMenu(menu)

    def show_style(self, style: StatementStyle) -> None:
        """Tick what holds."""
        for name, action in self.parts.items():
            action.setChecked(getattr(style.parts, name))
        for part in OF_THE_DETAILS:
            self.parts[part].setEnabled(style.parts.details)
        self.languages.get(style.language, self.languages[""]).setChecked(True)

    def _keep(self) -> None:
        language = next(code for code, action in self.languages.items() if action.isChecked())
        left_out = frozenset(part for part, action in self.parts.items() if not action.isChecked())
        self._desk.executor.ask(
            "statement style",
            lambda: keep_style(language, left_out),
            lambda _: self.changed.emit(),
        )
