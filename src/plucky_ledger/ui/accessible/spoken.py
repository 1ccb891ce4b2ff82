"""The face of what is painted: a table of rows and cells, each with words of its own."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, cast

from PySide6.QtCore import QRect
from PySide6.QtGui import QAccessible, QAccessibleActionInterface, QAccessibleInterface
from PySide6.QtWidgets import QWidget

from plucky_ledger.ui.accessible.faces import NOT_THERE, Actions, Face, FaceOrNone, on_screen
from plucky_ledger.ui.accessible.parts import Part
from plucky_ledger.wording.spoken import SpokenRow

if TYPE_CHECKING:
    from plucky_ledger.ui.accessible.picture import Picture


class SpokenCell(Part):
    """One figure of a row."""

    ROLE = QAccessible.Role.Cell

    def __init__(self, row: "SpokenLine", face: Face, at: int) -> None:
        super().__init__(face)
        self._row, self._at = row, at

    def parent(self) -> QAccessibleInterface:
        return self._row

    def rect(self) -> QRect:
        return self._row.rect()

    def text(self, which: QAccessible.Text) -> str:
        cells = self._row.told.cells
        return cells[self._at] if which == QAccessible.Text.Name and self._at < len(cells) else ""


class SpokenLine(Part):
    """One row, known by its name: it stays itself where the rows come in another order."""

    ROLE = QAccessible.Role.Row

    def __init__(self, face: "PictureFace", name: str) -> None:
        super().__init__(face)
        self._picture = face.picture
        self._name = name
        self.at = 0
        """Its place, when the rows were gone through last."""
        self._cells: list[SpokenCell] = []
        press = {QAccessibleActionInterface.pressAction(): self._choose}
        self._actions = Actions(face.widget, press)

    @property
    def told(self) -> SpokenRow:
        """What stands in it; nothing once it is no more."""
        self._face.parts()  # tells each its place
        rows = self._picture.spoken_rows()
        there = self.at < len(rows) and rows[self.at].name == self._name
        return rows[self.at] if there else SpokenRow(self._name)

    @property
    def numbers(self) -> list[int]:
        """What it and its cells are known by."""
        return [self.number, *(cell.number for cell in self._cells)]

    def _choose(self) -> None:
        self._picture.choose_spoken(self.at)

    def childCount(self) -> int:
        return len(self.told.cells)

    def child(self, index: int) -> FaceOrNone:
        while len(self._cells) < self.childCount():
            self._cells.append(SpokenCell(self, self._face, len(self._cells)))
        return self._cells[index] if 0 <= index < self.childCount() else None

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return next((at for at, cell in enumerate(self._cells) if cell is child), -1)

    def rect(self) -> QRect:
        return on_screen(self._face.widget, self._picture.spoken_box(self.at))

    def text(self, which: QAccessible.Text) -> str:
        return self._name if which == QAccessible.Text.Name else ""

    def state(self) -> QAccessible.State:
        state, chosen = super().state(), self._picture.spoken_chosen()
        state.selectable = state.focusable = chosen is not None
        state.selected = chosen == self.at
        state.focused = state.selected and self._face.widget.hasFocus()
        return state

    def interface_cast(self, kind: QAccessible.InterfaceType) -> Any:
        can = self._picture.spoken_chosen() is not None
        acts = can and kind == QAccessible.InterfaceType.ActionInterface
        return self._actions if acts else NOT_THERE


class PictureFace(Face):
    """A picture as a table of its rows."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self._lines: dict[tuple[str, int], SpokenLine] = {}
        """By their names; those of one name are counted."""

    def role(self) -> QAccessible.Role:
        rows = self.picture.spoken_rows()
        return QAccessible.Role.Table if rows else QAccessible.Role.Graphic

    def acts(self) -> Mapping[str, Callable[[], None]]:
        if not self.widget.focusPolicy().value:
            return {}
        return {QAccessibleActionInterface.setFocusAction(): self.widget.setFocus}

    @property
    def picture(self) -> "Picture":
        """The widget, as what can be told in rows."""
        return cast("Picture", self.object())

    def parts(self) -> Sequence[QAccessibleInterface]:
        seen: Counter[str] = Counter()
        lines = []
        for at, row in enumerate(self.picture.spoken_rows()):
            key = row.name, seen[row.name]
            seen[row.name] += 1
            line = self._lines.get(key)
            if line is None:
                line = self._lines[key] = SpokenLine(self, row.name)
            line.at = at
            lines.append(line)
        return lines

    def focusChild(self) -> FaceOrNone:
        chosen = self.picture.spoken_chosen()
        return self.child(chosen) if chosen is not None else None

    def let_go(self) -> None:
        for line in self._lines.values():
            for number in line.numbers:
                QAccessible.deleteAccessibleInterface(number)
        self._lines = {}
