"""A field in which something is looked for."""

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QLineEdit

from plucky_ledger.wording.language import say


class SearchField(QLineEdit):
    """Finds while something is typed in it; it can be cleared."""

    def __init__(self, name: str, hint: str, wide: int = 0) -> None:
        super().__init__()
        self._wide = wide
        self.setClearButtonEnabled(True)
        self.setPlaceholderText(hint)
        self.setAccessibleName(name)
        self.setAccessibleDescription(say("Shows what matches while you type"))

    def sizeHint(self) -> QSize:
        """As wide as is liked, where there is room."""
        usual = super().sizeHint()
        return QSize(self._wide or usual.width(), usual.height())
