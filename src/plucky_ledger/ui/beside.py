"""Two parts beside each other where there is room, else below each other."""

from PySide6.QtCore import QSize
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QWidget


class BesideOrBelow(QWidget):
    """Needs no more width than the wider of its parts."""

    def __init__(self, first: QWidget, second: QWidget, apart: int = 8) -> None:
        super().__init__()
        self._apart = apart
        """Pixels that have to be left between them."""
        self._parts = first, second
        self.row = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(2)
        self.row.addWidget(first)
        self.row.addWidget(second, 1)

    @property
    def is_beside(self) -> bool:
        """Whether they are beside each other now."""
        return self.row.direction() is QBoxLayout.Direction.LeftToRight

    def minimumSizeHint(self) -> QSize:
        margins = self.row.contentsMargins()
        widest = max(part.minimumSizeHint().width() for part in self._parts)
        wide = widest + margins.left() + margins.right()
        return QSize(wide, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        wanted = sum(part.sizeHint().width() for part in self._parts) + self._apart
        direction = QBoxLayout.Direction
        beside = self.width() >= wanted
        self.row.setDirection(direction.LeftToRight if beside else direction.TopToBottom)
