"""Every shortcut with what it does."""

from PySide6.QtWidgets import QGridLayout, QScrollArea, QWidget

from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Text
from plucky_ledger.wording.language import say

COLUMNS = 2
"""Lists of keys side by side."""


class KeysPanel(Panel):
    """Two columns of keys, in the order of the menus."""

    def __init__(self) -> None:
        super().__init__(
            say("Keys"),
            say("In the lanes: + and − zoom, the arrow keys move, 0 shows the whole boot."),
        )
        self._list = QScrollArea()
        self._list.setAccessibleName(self.accessibleName())
        self._list.setWidgetResizable(True)
        self.body.addWidget(self._list, 1)
        leave = self.add_button(say("Back"), main=True)
        leave.clicked.connect(self.leave)

    def begin(self, keys: tuple[tuple[str, str], ...]) -> None:
        """Show keys, each with what it does."""
        inner = QWidget()
        grid = QGridLayout(inner)
        grid.setHorizontalSpacing(14)
        half = -(-len(keys) // COLUMNS)
        for index, (key, words) in enumerate(keys):
            row, column = index % half, 2 * (index // half)
            shortcut, meaning = Text(key), Text(words)
            shortcut.setProperty("quiet", True)
            grid.addWidget(shortcut, row, column)
            grid.addWidget(meaning, row, column + 1)
            grid.setColumnStretch(column + 1, 1)
        grid.setRowStretch(half, 1)
        self._list.setWidget(inner)
