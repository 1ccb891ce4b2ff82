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
            name=f"decide_{decision}",
            menu=menu,
            words=words,
            keys=DECISION_KEYS[decision],
            do=lambda decision=decision: right.decide(decision),  # type: ignore[misc]
            possible=may.decide,
            places=ENTRIES | LANES,
        )
    yield Action(
        name="give_reason",
        menu=menu,
        words=N_("Type the reason"),
        keys="R",
        do=window.ways.to_reason,
        possible=may.entries_and_write,
        places=ENTRIES,
    )
    yield Action(
        name="put_entry_back",
        menu=menu,
        words=N_("Put this entry back"),
        keys="U",
        do=window.put_entry_back,
        possible=may.decide,
        places=ENTRIES | LANES,
    )
    yield Action(
        name="find_entry",
        menu=menu,
        words=N_("Find an entry"),
        keys="Ctrl+G",
        do=window.ways.find_entry,
        possible=may.entries,
        new_group=True,
    )
    yield Action(
        name="unfold_system",
        menu=menu,
        words=N_("Show the parts of the system"),
        keys="Ctrl+Shift+L",
        do=window.ways.unfold_system,
        possible=may.entries,
    )
    yield Action(
        name="stop_now",
        menu=menu,
        words=N_("Stop now"),
        keys="",
        do=right.stop_program,
        possible=may.stop,
        places=LOAD,
    )
    yield Action(
        name="look_up_program",
        menu=menu,
        words=N_("Look this program up"),
        keys="",
        do=right.look_up_program,
        possible=may.load_and_write,
        places=LOAD,
    )
    yield Action(
        name="set_program_aside",
        menu=menu,
        words=N_("Leave this program out, or bring it back"),
        keys="",
        do=right.set_program_aside,
        possible=may.load_and_write,
        places=LOAD,
    )
    yield Action(
        name="look_up_list",
        menu=menu,
        words=N_("Look-up list…"),
        keys="Ctrl+K",
        do=panels.show_look_up,
        possible=may.write,
        new_group=True,
    )
    yield Action(
        name="type_entries",
        menu=menu,
        words=N_("Type entries in…"),
        keys="Ctrl+Shift+Y",
        do=panels.show_type_entries,
        possible=may.job_and_write,
    )
    yield Action(
        name="grades",
        menu=menu,
        words=N_("Grades…"),
        keys="",
        do=panels.show_grades,
        possible=may.write,
    )
