"""Record: boots of this PC and of others."""

from collections.abc import Iterator

from plucky_ledger.ui.actions import Action, Menu, Place
from plucky_ledger.ui.menus.possible import Possible, WindowCommands
from plucky_ledger.wording.language import N_

BOOK = frozenset({Place.BOOK})
LANES = frozenset({Place.LANES})


def record_menu(window: WindowCommands, may: Possible) -> Iterator[Action]:
    menu, panels, job = Menu.RECORD, window.panels, may.job_and_write
    yield Action("record", menu, N_("Record a boot…"), "Ctrl+R", panels.show_recording, job, BOOK)
    yield Action(
        "arm",
        menu,
        N_("Record the next boots, or read past ones…"),
        "Ctrl+P",
        panels.show_arming,
        job,
    )
    yield Action("night", menu, N_("Night shift…"), "Ctrl+Shift+P", panels.show_night, job)
    yield Action(
        "stopwatch", menu, N_("Time with the stopwatch…"), "Ctrl+T", panels.show_stopwatch, job
    )
    yield Action("type_figures", menu, N_("Type figures in…"), "Ctrl+Y", panels.show_typed, job)
    yield Action(
        "import", menu, N_("Import recordings…"), "Ctrl+I", window.files.ask_for_recordings, job
    )
    yield Action(
        "correct_marks",
        menu,
        N_("Correct the marks…"),
        "Ctrl+M",
        panels.show_correct,
        may.boot,
        LANES,
        new_group=True,
    )
    yield Action(
        "set_aside",
        menu,
        N_("Set this boot aside…"),
        "Ctrl+B",
        panels.show_aside,
        may.boot_that_counts,
        BOOK | LANES,
    )
    yield Action(
        "bring_back",
        menu,
        N_("Bring this boot back"),
        "Ctrl+Shift+B",
        window.bring_back,
        may.boot_aside,
        BOOK | LANES,
    )
