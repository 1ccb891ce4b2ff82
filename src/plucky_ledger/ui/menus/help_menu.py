"""Help: the manual, keys, version."""

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
    yield Action("explain", menu, N_("Manual"), "F1", window.ways.to_manual)
    yield Action(
        "basis",
        menu,
        N_("What this figure rests on"),
        "F2",
        window.ways.to_basis,
        may.job,
        BOOK | ENTRIES | LANES | LOAD | VERDICT | WHY,
    )
    yield Action(
        "methods",
        menu,
        N_("How the numbers are made"),
        "",
        lambda: window.panels.show_manual(Part.METHODS, ""),
    )
    yield Action("keys", menu, N_("Keys…"), "Ctrl+F1", window.show_keys)
    yield Action("version", menu, N_("Version"), "", window.tell_version)
