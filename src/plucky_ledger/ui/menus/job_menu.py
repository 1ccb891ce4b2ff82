"""Job: take in, open, close."""

from collections.abc import Iterator

from plucky_ledger.ui.actions import Action, Menu, Place
from plucky_ledger.ui.menus.possible import Possible, WindowCommands
from plucky_ledger.wording.language import N_

BOOK = frozenset({Place.BOOK})


def job_menu(window: WindowCommands, may: Possible) -> Iterator[Action]:
    menu, panels = Menu.JOB, window.panels
    yield Action("job_shelf", menu, N_("Job shelf"), "Ctrl+J", window.show_shelf)
    yield Action(
        "take_in",
        menu,
        N_("Take in a PC…"),
        "Ctrl+N",
        panels.show_take_in,
        may.write,
        frozenset({Place.SHELF}),
    )
    yield Action(
        "take_in_another",
        menu,
        N_("Take in another PC…"),
        "",
        panels.show_take_in_another,
        may.write,
        frozenset({Place.SHELF}),
    )
    yield Action(
        "demo", menu, N_("Look at the demo"), "", window.open_demo, places=frozenset({Place.SHELF})
    )
    yield Action(
        "job_card", menu, N_("Job card…"), "Ctrl+E", panels.show_card, may.job_and_write, BOOK
    )
    yield Action(
        "visit",
        menu,
        N_("Take it in again…"),
        "Ctrl+Shift+N",
        panels.show_visit,
        may.job_and_write,
        BOOK,
    )
    yield Action(
        "repaired_copy",
        menu,
        N_("Save a repaired copy…"),
        "",
        window.files.ask_for_copy,
        may.save_repaired,
        new_group=True,
    )
    yield Action("quit", menu, N_("Quit"), "Ctrl+Q", window.close, new_group=True)
