"""The faces of rows of choices, of lists to choose from, and of what folds away."""

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, cast

from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QAccessibleInterface,
    QAccessibleSelectionInterface,
)
from PySide6.QtWidgets import QComboBox, QPushButton, QWidget

from plucky_ledger.ui.accessible.faces import NOT_THERE, Actions, Face
from plucky_ledger.ui.accessible.parts import Part

if TYPE_CHECKING:
    from plucky_ledger.ui.choices import ChoiceButton, ChoiceRow


class ButtonFace(Face):
    """A button: what can be done with each of its kinds."""

    ROLE = QAccessible.Role.Button

    @property
    def button(self) -> QPushButton:
        """The widget it is the face of."""
        return cast("QPushButton", self.object())

    def acts(self) -> Mapping[str, Callable[[], None]]:
        return {
            QAccessibleActionInterface.pressAction(): self.button.click,
            QAccessibleActionInterface.setFocusAction(): self.button.setFocus,
        }


class ChoiceFace(ButtonFace):
    """One choice: a tab, or one of several."""

    def role(self) -> QAccessible.Role:
        tab = cast("ChoiceButton", self.object()).tab
        return QAccessible.Role.PageTab if tab else QAccessible.Role.RadioButton

    def state(self) -> QAccessible.State:
        state = super().state()
        state.selectable = state.checkable = True
        state.selected = state.checked = self.button.isChecked()
        return state


class ChoiceRowFace(Face):
    """Choices beside each other."""

    def role(self) -> QAccessible.Role:
        tabs = cast("ChoiceRow", self.object()).tabs
        return QAccessible.Role.PageTabList if tabs else QAccessible.Role.Grouping

    def parts(self) -> Sequence[QAccessibleInterface]:
        return [
            QAccessible.queryAccessibleInterface(button)
            for button in cast("ChoiceRow", self.object()).buttons()
        ]


class FoldFace(ButtonFace):
    """A button that opens and closes what is folded away."""

    def state(self) -> QAccessible.State:
        state = super().state()
        state.expandable = True
        state.expanded = self.button.isChecked()
        state.collapsed = not self.button.isChecked()
        return state


class _Offered(Part):
    """One of what is offered, by its place."""

    def __init__(self, chooser: "ChooserFace", at: int) -> None:
        super().__init__(chooser)
        self._box = chooser.box
        self._at = at
        press = {QAccessibleActionInterface.pressAction(): lambda: chooser.choose(at)}
        self._actions = Actions(chooser.box, press)

    def text(self, which: QAccessible.Text) -> str:
        return self._box.itemText(self._at) if which == QAccessible.Text.Name else ""

    def state(self) -> QAccessible.State:
        state = super().state()
        state.selectable = True
        state.selected = self._box.currentIndex() == self._at
        return state

    def interface_cast(self, kind: QAccessible.InterfaceType) -> Any:
        return self._actions if kind == QAccessible.InterfaceType.ActionInterface else NOT_THERE


class _Choice(QAccessibleSelectionInterface):
    """What is chosen of what is offered."""

    def __init__(self, chooser: "ChooserFace") -> None:
        super().__init__()
        self._chooser = chooser

    def selectedItemCount(self) -> int:
        return len(self.selectedItems())

    def selectedItems(self) -> list[QAccessibleInterface]:
        at = self._chooser.box.currentIndex()
        return [self._chooser.offered(at)] if at >= 0 else []

    def select(self, child: QAccessibleInterface) -> bool:
        at = self._chooser.indexOfChild(child)
        if at >= 0:
            self._chooser.choose(at)
        return at >= 0

    def unselect(self, _child: QAccessibleInterface) -> bool:
        return False

    def selectAll(self) -> bool:
        return False

    def clear(self) -> bool:
        return False


class ChooserFace(Face):
    """A list to choose from: named by what is chosen with it, with what it offers."""

    ROLE = QAccessible.Role.ComboBox

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self._offered: list[_Offered] = []
        self._choice = _Choice(self)

    @property
    def box(self) -> QComboBox:
        """The widget it is the face of."""
        return cast("QComboBox", self.object())

    def acts(self) -> Mapping[str, Callable[[], None]]:
        return {
            QAccessibleActionInterface.showMenuAction(): self.box.showPopup,
            QAccessibleActionInterface.setFocusAction(): self.box.setFocus,
        }

    def choose(self, at: int) -> None:
        """Choose what is offered at a place, as a press on it would."""
        self.box.setCurrentIndex(at)
        self.box.activated.emit(at)

    def offered(self, at: int) -> _Offered:
        """What is offered at a place."""
        while len(self._offered) <= at:
            self._offered.append(_Offered(self, len(self._offered)))
        return self._offered[at]

    def text(self, which: QAccessible.Text) -> str:
        return self.box.currentText() if which == QAccessible.Text.Value else super().text(which)

    def parts(self) -> Sequence[QAccessibleInterface]:
        return [self.offered(at) for at in range(self.box.count())]

    def interface_of(self, kind: QAccessible.InterfaceType) -> object | None:
        chooses = kind == QAccessible.InterfaceType.SelectionInterface
        return self._choice if chooses else super().interface_of(kind)

    def let_go(self) -> None:
        for item in self._offered:
            QAccessible.deleteAccessibleInterface(item.number)
        self._offered = []
