"""Fields for figures that may stay empty."""

from PySide6.QtWidgets import QLineEdit


class Unreadable(Exception):
    """What was typed is not a figure; the text says which field."""


class FigureField(QLineEdit):
    """A figure that may be left empty; a comma is taken for a point."""

    def __init__(self, name: str, example: str) -> None:
        super().__init__()
        self._name = name
        self.setPlaceholderText(example)
        self.setAccessibleName(name)
        self.setMaximumWidth(150)

    def figure(self) -> float | None:
        """What was typed; None when nothing.

        Raises:
            Unreadable: it is no figure.
        """
        text = self.text().strip().replace(",", ".")
        if not text:
            return None
        try:
            return float(text)
        except ValueError as error:
            raise Unreadable(
                f"{self._name}: “{text}” is not a figure. Type one such as "
                f"{self.placeholderText()}, or leave it empty."
            ) from error

    def put(self, value: float | None, decimals: int = 1) -> None:
        """Show a figure, or nothing."""
        self.setText("" if value is None else f"{value:.{decimals}f}")
