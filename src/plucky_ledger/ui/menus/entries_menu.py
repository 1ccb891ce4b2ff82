"""Entries: decisions, and what is done in the other lenses."""

from collections.abc import Iterator

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.ui.actions import Action, Menu, Place
from plucky_ledger.ui.menus.possible import Possible, WindowCommands
from plucky_ledger.wording.labels import DECISION_KEYS
from plucky_ledger.wording.language import N_

DECISIONS = (
    (Decision.KEEP, N_("Keep")),
    (Decision.OFF, N_("Switch off")),
    (Decision.LATER, N_("Start later")),
    (Decision.LOOK_UP, N_("Look it up first")),
)
ENTRIES = frozenset({Place.ENTRIES})
LANES = frozenset({Place.LANES})
LOAD = frozenset({Place.LOAD})


def entries_menu(window: WindowCommands, may: Possible) -> Iterator[Action]:
    menu, panels, right = Menu.ENTRIES, window.panels, window.right
    for decision, words in DECISIONS:
        yield Action(
            f"decide_{decision}",
            menu,
            words,
            DECISION_KEYS[decision],
            lambda decision=decision: right.decide(decision),  # type: ignore[misc]
            may.decide,
            ENTRIES | LANES,
        )
    yield Action(
        "give_reason",
        menu,
        N_("Give the reason"),
        "R",
        window.ways.to_reason,
        may.entries_and_write,
        ENTRIES,
    )
    yield Action(
        "put_entry_back",
        menu,
        N_("Put this entry back"),
        "U",
        window.put_entry_back,
        may.decide,
        ENTRIES | LANES,
    )
    yield Action(
        "find_entry",
        menu,
        N_("Find an entry"),
        "Ctrl+G",
        window.ways.find_entry,
        may.entries,
        new_group=True,
    )
    yield Action(
        "unfold_system",
        menu,
        N_("Unfold the parts of the system"),
        "Ctrl+Shift+L",
        window.ways.unfold_system,
        may.entries,
    )
    yield Action("stop_now", menu, N_("Stop now"), "", right.stop_program, may.stop, LOAD)
    yield Action(
        "look_up_program",
        menu,
        N_("Look this program up"),
        "",
        right.look_up_program,
        may.load_and_write,
        LOAD,
    )
    yield Action(
        "set_program_aside",
        menu,
        N_("Set this program aside, or bring it back"),
        "",
        right.set_program_aside,
        may.load_and_write,
        LOAD,
    )
    yield Action(
        "look_up_list",
        menu,
        N_("Look-up list…"),
        "Ctrl+K",
        panels.show_look_up,
        may.write,
        new_group=True,
    )
    yield Action(
        "type_entries",
        menu,
        N_("Type entries in…"),
        "Ctrl+Shift+Y",
        panels.show_type_entries,
        may.job_and_write,
    )
    yield Action("grades", menu, N_("Grades…"), "", panels.show_grades, may.write)
