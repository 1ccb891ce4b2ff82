"""Record: boots of this PC and of others."""

from collections.abc import Iterator

from plucky_ledger.ui.actions import Action, Menu, Place
from plucky_ledger.ui.menus.possible import Possible, WindowCommands
from plucky_ledger.ui.sticks import KEY
from plucky_ledger.wording.language import N_

BOOK = frozenset({Place.BOOK})
LANES = frozenset({Place.LANES})


def record_menu(window: WindowCommands, may: Possible) -> Iterator[Action]:
    menu, panels, job = Menu.RECORD, window.panels, may.job_and_write
    yield Action(
        name="record",
        menu=menu,
        words=N_("Record a boot…"),
        keys="Ctrl+R",
        do=panels.show_recording,
        possible=job,
        places=BOOK,
    )
    yield Action(
        name="arm",
        menu=menu,
        words=N_("Record the next boots, or read past ones…"),
        keys="Ctrl+Shift+R",
        do=panels.show_arming,
        possible=job,
    )
    yield Action(
        name="night",
        menu=menu,
        words=N_("Night shift…"),
        keys="Ctrl+Shift+P",
        do=panels.show_night,
        possible=job,
    )
    yield Action(
        name="stopwatch",
        menu=menu,
        words=N_("Time with the stopwatch…"),
        keys="Ctrl+T",
        do=panels.show_stopwatch,
        possible=job,
    )
    yield Action(
        name="type_figures",
        menu=menu,
        words=N_("Type figures in…"),
        keys="Ctrl+Shift+I",
        do=panels.show_typed,
        possible=job,
    )
    yield Action(
        name="card",
        menu=menu,
        words=N_("Starts timed by hand, on a card…"),
        keys="",
        do=panels.show_hand_card,
        possible=job,
    )
    yield Action(
        name="import_table",
        menu=menu,
        words=N_("Import figures from a table…"),
        keys="",
        do=window.files.ask_for_table,
        possible=job,
    )
    yield Action(
        name="import",
        menu=menu,
        words=N_("Import recordings…"),
        keys="Ctrl+I",
        do=window.files.ask_for_recordings,
        possible=job,
    )
    yield Action(
        name="take_in_stick",
        menu=menu,
        words=N_("Take in recordings from a stick"),
        keys=KEY,
        do=window.sticks.take_in,
        possible=may.stick,
    )
    yield Action(
        name="correct_marks",
        menu=menu,
        words=N_("Correct the marks…"),
        keys="Ctrl+M",
        do=panels.show_correct,
        possible=may.boot,
        places=LANES,
        new_group=True,
    )
    yield Action(
        name="set_aside",
        menu=menu,
        words=N_("Set this boot aside…"),
        keys="Ctrl+B",
        do=panels.show_aside,
        possible=may.boot_that_counts,
        places=BOOK | LANES,
    )
    yield Action(
        name="bring_back",
        menu=menu,
        words=N_("Bring this boot back"),
        keys="Ctrl+Shift+B",
        do=window.bring_back,
        possible=may.boot_aside,
        places=BOOK | LANES,
    )
