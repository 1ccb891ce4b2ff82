"""The face of a widget: what assistive programs are told of it in place of the toolkit's guess.

A widget with a face of its own has a method ``make_face``; it is called when somebody first asks.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, cast

from PySide6.QtCore import QObject, QRect, QTimer
from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QAccessibleInterface,
    QAccessibleObject,
)
from PySide6.QtWidgets import QWidget
from shiboken6 import Shiboken, VoidPtr

FaceOrNone = Any
"""The toolkit takes None where there is no face, though its declarations do not say so."""
NOT_THERE = VoidPtr(0)
"""The answer to whoever asks for a part that a face has not: None would be taken for a part."""


class Actions(QAccessibleActionInterface):
    """What can be done with a thing, by the names that assistive programs know."""

    def __init__(self, of: QObject, acts: Mapping[str, Callable[[], None]]) -> None:
        super().__init__()
        self._of = of
        self._acts = acts

    def actionNames(self) -> list[str]:
        return list(self._acts)

    def doAction(self, name: str) -> None:
        """Do it once whoever asked has an answer: it may open a dialog that waits."""
        if name in self._acts:
            QTimer.singleShot(0, self._of, self._acts[name])

    def keyBindingsForAction(self, _name: str) -> list[str]:
        return []


class Face(QAccessibleObject):
    """What every face of a widget says: its name, where it is, and what can be done with it."""

    ROLE = QAccessible.Role.Client

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        acts = self.acts()
        self._actions = Actions(widget, acts) if acts else None

    @property
    def widget(self) -> QWidget:
        """The widget it is the face of."""
        return cast("QWidget", self.object())

    def acts(self) -> Mapping[str, Callable[[], None]]:
        """What can be done with it."""
        return {}

    def parts(self) -> Sequence[QAccessibleInterface]:
        """The faces of what is in it."""
        return ()

    def let_go(self) -> None:
        """The widget is gone."""

    def role(self) -> QAccessible.Role:
        return self.ROLE

    def text(self, which: QAccessible.Text) -> str:
        if which == QAccessible.Text.Name:
            return self.widget.accessibleName()
        if which == QAccessible.Text.Description:
            return self.widget.accessibleDescription()
        return ""

    def state(self) -> QAccessible.State:
        widget, state = self.widget, QAccessible.State()
        state.disabled = not widget.isEnabled()
        state.invisible = not widget.isVisible()
        state.focusable = bool(widget.focusPolicy().value)
        state.focused = widget.hasFocus()
        return state

    def parent(self) -> FaceOrNone:
        around = self.widget.parentWidget()
        return QAccessible.queryAccessibleInterface(around) if around is not None else None

    def childCount(self) -> int:
        return len(self.parts())

    def child(self, index: int) -> FaceOrNone:
        parts = self.parts()
        return parts[index] if 0 <= index < len(parts) else None

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        parts = list(self.parts())
        return parts.index(child) if child in parts else -1

    def childAt(self, x: int, y: int) -> FaceOrNone:
        return next((part for part in self.parts() if part.rect().contains(x, y)), None)

    def rect(self) -> QRect:
        return on_screen(self.widget, self.widget.rect())

    def window(self) -> Any:
        return self.widget.window().windowHandle()

    def interface_cast(self, kind: QAccessible.InterfaceType) -> Any:
        part = self.interface_of(kind)
        return NOT_THERE if part is None else part

    def interface_of(self, kind: QAccessible.InterfaceType) -> object | None:
        """A further side of it; None where it has none of that kind."""
        return self._actions if kind == QAccessible.InterfaceType.ActionInterface else None


_faces: list[Face] = []
"""All that were made: the toolkit takes them, and does not keep what is Python's of them."""


def use_faces() -> None:
    """Have the toolkit ask widgets for their own faces from now on."""
    QAccessible.installFactory(_face_of)


def _face_of(_kind: str, thing: QObject) -> QAccessibleInterface | None:
    make: Callable[[], Face] | None = getattr(thing, "make_face", None)
    if make is None:
        return None
    for gone in [face for face in _faces if not Shiboken.isValid(face)]:
        _faces.remove(gone)
        gone.let_go()
    face = make()
    _faces.append(face)
    return face


def on_screen(widget: QWidget, box: QRect) -> QRect:
    """A box of a widget's as a box of the screen's."""
    return QRect(widget.mapToGlobal(box.topLeft()), box.size())
