"""What is in a face and is no widget: an item, a row, a cell."""

from typing import Any

from PySide6.QtCore import QRect
from PySide6.QtGui import QAccessible, QAccessibleInterface
from shiboken6 import Shiboken

from plucky_ledger.ui.accessible.faces import NOT_THERE, Face, FaceOrNone


class Part(QAccessibleInterface):
    """A part of a face, there as long as that is."""

    ROLE = QAccessible.Role.ListItem

    def __init__(self, face: Face) -> None:
        super().__init__()
        self._face = face
        self.number = QAccessible.registerAccessibleInterface(self)
        """What the toolkit knows it by."""

    def isValid(self) -> bool:
        return bool(Shiboken.isValid(self._face))

    def object(self) -> Any:
        return None

    def parent(self) -> QAccessibleInterface:
        return self._face

    def role(self) -> QAccessible.Role:
        return self.ROLE

    def state(self) -> QAccessible.State:
        state = QAccessible.State()
        state.invisible = not self._face.widget.isVisible()
        return state

    def setText(self, _which: QAccessible.Text, _text: str) -> None:
        """Others write nothing here."""

    def rect(self) -> QRect:
        return self._face.rect()

    def window(self) -> Any:
        return self._face.window()

    def childCount(self) -> int:
        return 0

    def child(self, _index: int) -> FaceOrNone:
        return None

    def childAt(self, _x: int, _y: int) -> FaceOrNone:
        return None

    def indexOfChild(self, _child: QAccessibleInterface) -> int:
        return -1

    def interface_cast(self, _kind: QAccessible.InterfaceType) -> Any:
        return NOT_THERE
