"""Help: the manual, keys, the program itself."""

from collections.abc import Iterator

from plucky_ledger.ui.actions import Action, Menu, Place
from plucky_ledger.ui.menus.possible import Possible, WindowCommands
from plucky_ledger.usecases.jobs.manual import Part
from plucky_ledger.wording.language import N_

BOOK = frozenset({Place.BOOK})
ENTRIES = frozenset({Place.ENTRIES})
LANES = frozenset({Place.LANES})
LOAD = frozenset({Place.LOAD})
VERDICT = frozenset({Place.VERDICT})
WHY = frozenset({Place.WHY})


def help_menu(window: WindowCommands, may: Possible) -> Iterator[Action]:
    menu = Menu.HELP
    yield Action(name="explain", menu=menu, words=N_("Manual"), keys="F1", do=window.ways.to_manual)
    yield Action(
        name="basis",
        menu=menu,
        words=N_("What this figure is based on"),
        keys="F2",
        do=window.ways.to_basis,
        possible=may.job,
        places=BOOK | ENTRIES | LANES | LOAD | VERDICT | WHY,
    )
    yield Action(
        name="methods",
        menu=menu,
        words=N_("How the numbers are made"),
        keys="",
        do=lambda: window.panels.show_manual(Part.METHODS, ""),
    )
    yield Action(name="keys", menu=menu, words=N_("Keys…"), keys="Ctrl+F1", do=window.show_keys)
    yield Action(
        name="reset_demo",
        menu=menu,
        words=N_("Reset the demo"),
        keys="",
        do=window.reset_demo,
        possible=may.demo,
        new_group=True,
    )
    yield Action(
        name="about", menu=menu, words=N_("About Plucky Ledger"), keys="", do=window.show_about
    )
