"""The spines of the shelf as a list, and those of them that are wanted."""

from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPersistentModelIndex,
    QSortFilterProxyModel,
    Qt,
)

from plucky_ledger.pages.shelf import ShelfFilter, Spine, is_shown
from plucky_ledger.ui.filtering import choosing_anew
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.wording.shelf import matches, owner, saved, searchable, state, title, visit

Index = QModelIndex | QPersistentModelIndex
SPINE_ROLE = Qt.ItemDataRole.UserRole + 1


class ShelfModel(QAbstractListModel):
    """The spines."""

    def __init__(self) -> None:
        super().__init__()
        self._spines: tuple[Spine, ...] = ()

    def show_spines(self, spines: tuple[Spine, ...]) -> None:
        """Show other jobs."""
        self.beginResetModel()
        self._spines = spines
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._spines)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        spine = self._spines[index.row()]
        if role == SPINE_ROLE:
            return spine
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            sentence = (
                f"{spine.card.label} {title(spine)}",
                owner(spine),
                state(spine),
                visit(spine),
                saved(spine),
            )
            return ", ".join(sentence)
        return None


class FoundSpines(QSortFilterProxyModel):
    """The spines that match a search text."""

    wanted, kind = "", ShelfFilter.ALL

    def __init__(self) -> None:
        super().__init__()
        self._said: dict[int, tuple[Spine, str]] = {}
        """What each spine says, by job: with many the words are made once, not at each key."""

    def look_for(self, text: str) -> None:
        """Show only what matches."""
        with choosing_anew(self):
            self.wanted = text

    def show_only(self, kind: ShelfFilter) -> None:
        """Show only jobs of this kind."""
        with choosing_anew(self):
            self.kind = kind

    def filterAcceptsRow(self, row: int, parent: Index) -> bool:
        model = self.sourceModel()
        spine: Spine = model.data(model.index(row, 0, parent), SPINE_ROLE)
        if self.kind is not ShelfFilter.ALL and not is_shown(spine, self.kind, now()):
            return False
        return not self.wanted or matches(self._what_it_says(spine), self.wanted)

    def _what_it_says(self, spine: Spine) -> str:
        known = self._said.get(spine.job)
        if known is None or known[0] is not spine:
            known = self._said[spine.job] = (spine, searchable(spine))
        return known[1]
