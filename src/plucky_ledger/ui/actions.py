"""Actions: what can be done, in one list that makes menus, shortcuts, context menus and help."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QMenuBar, QWidget

from plucky_ledger.wording.language import N_, say


class Menu(StrEnum):
    """The menus, in their order."""

    JOB = "job"
    RECORD = "record"
    ENTRIES = "entries"
    BOOK = "book"
    VIEW = "view"
    HELP = "help"


TITLES = {
    Menu.JOB: N_("&Job"),
    Menu.RECORD: N_("&Record"),
    Menu.ENTRIES: N_("&Entries"),
    Menu.BOOK: N_("&Book"),
    Menu.VIEW: N_("&View"),
    Menu.HELP: N_("&Help"),
}


class Place(StrEnum):
    """Where an action is offered by a context menu."""

    BOOK = "book"
    ENTRIES = "entries"
    LANES = "lanes"
    LOAD = "load"
    VERDICT = "verdict"
    WHY = "why"
    STATEMENT = "statement"
    SHELF = "shelf"


def _always() -> bool:
    return True


@dataclass(frozen=True, kw_only=True)
class Action:
    """One thing that can be done."""

    name: str
    """Stable, for whoever refers to it."""
    menu: Menu
    words: str
    """As a menu shows it; a message to be said."""
    keys: str
    """The shortcut; empty for none."""
    do: Callable[[], object]
    other_keys: tuple[str, ...] = ()
    """Shortcuts that do the same, for who is used to them."""
    possible: Callable[[], bool] = _always
    """Whether it makes sense now."""
    places: frozenset[Place] = frozenset()
    """Context menus it is in."""
    new_group: bool = False
    """A line stands above it in its menu."""
    submenu: str = ""
    """Words of the menu within the menu it stands in; empty for none."""

    @property
    def of_a_list(self) -> bool:
        """Its key is one letter, which acts only on what is listed at its places."""
        return len(self.keys) == 1 and bool(self.places)


class Actions:
    """The actions of a window, made into menus and shortcuts."""

    def __init__(
        self, owner: QWidget, actions: Iterable[Action], before: Callable[[], None]
    ) -> None:
        """``before`` is called as each begins."""
        self._owner = owner
        self._before = before
        self.listed = tuple(actions)
        self.made: dict[str, QAction] = {action.name: self._made(action) for action in self.listed}

    def _made(self, action: Action) -> QAction:
        made = QAction(say(action.words), self._owner)
        if action.keys:
            made.setShortcuts([QKeySequence(keys) for keys in (action.keys, *action.other_keys)])
        made.triggered.connect(lambda _on=False: self._before())
        made.triggered.connect(lambda _on=False: action.do())
        if action.of_a_list:
            made.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        else:
            self._owner.addAction(made)
        return made

    def act_in(self, place: Place, widget: QWidget) -> None:
        """The single keys of a place act while the keyboard is on what is listed there."""
        for action in self.listed:
            if action.of_a_list and place in action.places:
                widget.addAction(self.made[action.name])

    def fill(self, bar: QMenuBar) -> None:
        """The menus of a menu bar."""
        menus = {menu: bar.addMenu(say(TITLES[menu])) for menu in Menu}
        inner: dict[str, QMenu] = {}
        for action in self.listed:
            menu = menus[action.menu]
            if action.new_group:
                menu.addSeparator()
            if action.submenu:
                if action.submenu not in inner:
                    inner[action.submenu] = menu.addMenu(say(action.submenu))
                menu = inner[action.submenu]
            menu.addAction(self.made[action.name])

    def context_menu(self, place: Place, parent: QWidget) -> QMenu:
        """What can be done at a place now."""
        menu = QMenu(parent)
        for action in self.listed:
            if place in action.places and action.possible():
                menu.addAction(self.made[action.name])
        return menu

    def show_what_can_be_done(self) -> None:
        """Grey out what makes no sense now."""
        for action in self.listed:
            self.made[action.name].setEnabled(action.possible())

    def keys(self) -> tuple[tuple[str, str], ...]:
        """Every shortcut with what it does, in the order of the menus."""
        return tuple(
            (
                QKeySequence(action.keys).toString(QKeySequence.SequenceFormat.NativeText),
                say(action.words).rstrip("…"),
            )
            for action in self.listed
            if action.keys
        )
