"""Fields for figures that may stay empty."""

from PySide6.QtWidgets import QLineEdit

from plucky_ledger.core.values.trouble import Refused
from plucky_ledger.wording.figures import number, read_number


class FigureField(QLineEdit):
    """A figure that may be left empty, typed by the rules by which figures are shown."""

    def __init__(self, name: str, example: str) -> None:
        super().__init__()
        self._name = name
        self.setPlaceholderText(example)
        self.setAccessibleName(name)
        self.setMaximumWidth(150)

    def figure(self) -> float | None:
        """What was typed; None when nothing.

        Raises:
            Refused: it is no figure.
        """
        text = self.text().strip()
        if not text:
            return None
        try:
            return read_number(text)
        except Refused as refused:
            raise refused.with_facts(field=self._name) from refused

    def put(self, value: float | None, decimals: int = 1) -> None:
        """Show a figure, or nothing."""
        self.setText("" if value is None else number(value, decimals))
