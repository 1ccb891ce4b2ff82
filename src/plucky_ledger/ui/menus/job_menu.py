"""Job: take in, open, close."""

from collections.abc import Iterator

from plucky_ledger.ui.actions import Action, Menu, Place
from plucky_ledger.ui.menus.possible import Possible, WindowCommands
from plucky_ledger.ui.recent_ledgers import recent_ledgers
from plucky_ledger.wording.language import N_
from plucky_ledger.wording.safe import shown

BOOK = frozenset({Place.BOOK})
TABLES = frozenset({Place.ENTRIES, Place.LOAD})
VIEWS = frozenset({Place.LANES, Place.VERDICT, Place.WHY})


def job_menu(window: WindowCommands, may: Possible) -> Iterator[Action]:
    menu, panels = Menu.JOB, window.panels
    yield Action(
        name="job_shelf", menu=menu, words=N_("Job shelf"), keys="Ctrl+J", do=window.show_shelf
    )
    yield Action(
        name="take_in",
        menu=menu,
        words=N_("Take in a PC…"),
        keys="Ctrl+N",
        do=panels.show_take_in,
        possible=may.write,
        places=frozenset({Place.SHELF}),
    )
    yield Action(
        name="take_in_another",
        menu=menu,
        words=N_("Take in another PC…"),
        keys="",
        do=panels.show_take_in_another,
        possible=may.write,
        places=frozenset({Place.SHELF}),
    )
    yield Action(
        name="write_stick",
        menu=menu,
        words=N_("Write a stick…"),
        keys="",
        do=window.sticks.ask_and_write,
    )
    yield Action(
        name="demo",
        menu=menu,
        words=N_("Look at the demo"),
        keys="",
        do=window.open_demo,
        places=frozenset({Place.SHELF}),
    )
    yield Action(
        name="job_card",
        menu=menu,
        words=N_("Job card…"),
        keys="Ctrl+E",
        do=panels.show_card,
        possible=may.job_and_write,
        places=BOOK,
    )
    yield Action(
        name="visit",
        menu=menu,
        words=N_("Take it in again…"),
        keys="Ctrl+Shift+N",
        do=panels.show_visit,
        possible=may.job_and_write,
        places=BOOK,
    )
    yield Action(
        name="export_job",
        menu=menu,
        words=N_("Export this job…"),
        keys="",
        do=window.job_files.ask_and_export,
        possible=may.job,
        places=BOOK,
    )
    yield Action(
        name="import_job",
        menu=menu,
        words=N_("Import a job…"),
        keys="",
        do=window.job_files.ask_and_import,
        possible=may.write,
        places=frozenset({Place.SHELF}),
    )
    yield Action(
        name="hand_on",
        menu=menu,
        words=N_("Hand on what was learned…"),
        keys="",
        do=window.learned.ask_and_hand_on,
        new_group=True,
    )
    yield Action(
        name="take_in_learned",
        menu=menu,
        words=N_("Take in what others learned…"),
        keys="",
        do=window.learned.ask_and_take_in,
        possible=may.write,
    )
    yield Action(
        name="open_ledger",
        menu=menu,
        words=N_("Open a ledger…"),
        keys="Ctrl+O",
        do=window.files.ask_for_ledger,
        new_group=True,
    )
    yield Action(
        name="open_workshop",
        menu=menu,
        words=N_("Open a workshop's ledger…"),
        keys="",
        do=panels.show_workshop,
    )
    for index, address in enumerate(recent_ledgers()):
        yield Action(
            name=f"recent_{index}",
            menu=menu,
            words=shown(address.name),
            keys="",
            do=lambda address=address: window.files.open_ledger(address),  # type: ignore[misc]
            submenu=N_("Recent ledgers"),
        )
    yield Action(
        name="repaired_copy",
        menu=menu,
        words=N_("Save a repaired copy…"),
        keys="",
        do=window.files.ask_for_copy,
        possible=may.save_repaired,
    )
    yield Action(
        name="preferences",
        menu=menu,
        words=N_("Preferences…"),
        keys="Ctrl+,",
        do=panels.show_preferences,
        new_group=True,
    )
    yield Action(
        name="save_table",
        menu=menu,
        words=N_("Save this table…"),
        keys="Ctrl+S",
        do=window.taking_out.ask_and_save_table,
        possible=may.job,
        places=TABLES,
        new_group=True,
    )
    yield Action(
        name="save_view",
        menu=menu,
        words=N_("Save this view as a picture…"),
        keys="",
        do=window.taking_out.ask_and_save_view,
        possible=may.job,
        places=VIEWS,
    )
    yield Action(
        name="save_book",
        menu=menu,
        words=N_("Save the book as a picture…"),
        keys="",
        do=window.taking_out.ask_and_save_book,
        possible=may.job,
        places=BOOK,
    )
    yield Action(
        name="copy_picture",
        menu=menu,
        words=N_("Copy this view as a picture"),
        keys="Ctrl+Shift+C",
        do=window.taking_out.copy_picture,
        possible=may.job,
        places=VIEWS,
    )
    yield Action(
        name="print_statement",
        menu=menu,
        words=N_("Print the statement…"),
        keys="Ctrl+P",
        do=window.taking_out.print_statement,
        possible=may.job,
        places=frozenset({Place.STATEMENT}),
    )
    yield Action(name="quit", menu=menu, words=N_("Quit"), keys="Ctrl+Q", do=window.close)
