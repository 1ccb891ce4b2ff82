"""Book: postings, putting back, undo."""

from collections.abc import Iterator

from plucky_ledger.ui.actions import Action, Menu, Place
from plucky_ledger.ui.menus.possible import Possible, WindowCommands
from plucky_ledger.wording.language import N_

BOOK = frozenset({Place.BOOK})
ENTRIES = frozenset({Place.ENTRIES})
VERDICT = frozenset({Place.VERDICT})
STATEMENT = frozenset({Place.STATEMENT})
WHY = frozenset({Place.WHY})


def book_menu(window: WindowCommands, may: Possible) -> Iterator[Action]:
    menu, panels, desk, switching = Menu.BOOK, window.panels, window.desk, window.switching
    right = window.right
    yield Action(
        name="write_down",
        menu=menu,
        words=N_("Write down changes…"),
        keys="Ctrl+D",
        do=panels.show_write_down,
        possible=may.job_and_write,
        places=BOOK,
    )
    yield Action(
        name="write_down_outside",
        menu=menu,
        words=N_("Write down changes made elsewhere"),
        keys="Ctrl+Shift+D",
        do=window.write_down_outside,
        possible=may.something_outside,
        places=BOOK,
    )
    yield Action(
        name="post",
        menu=menu,
        words=N_("Post what is pencilled"),
        keys="Ctrl+Return",
        do=switching.post,
        possible=may.pencilled,
        places=BOOK | ENTRIES,
    )
    yield Action(
        name="rub_out",
        menu=menu,
        words=N_("Rub out what is pencilled"),
        keys="Ctrl+Backspace",
        do=window.rub_out,
        possible=may.pencilled,
        places=BOOK,
    )
    yield Action(
        name="put_back",
        menu=menu,
        words=N_("Put this posting back"),
        keys="Ctrl+U",
        do=switching.strike_out,
        possible=may.done_posting,
        places=BOOK | VERDICT,
    )
    yield Action(
        name="put_everything_back",
        menu=menu,
        words=N_("Put everything back"),
        keys="Ctrl+Shift+U",
        do=switching.put_everything_back,
        possible=may.something_in_force,
        places=BOOK,
    )
    yield Action(
        name="put_back_cut_off",
        menu=menu,
        words=N_("Put back the interrupted change"),
        keys="",
        do=switching.put_back_cut_off,
        possible=may.job_and_write,
    )
    yield Action(
        name="begin_turns",
        menu=menu,
        words=N_("Take boots in turns"),
        keys="Ctrl+Shift+T",
        do=switching.begin_turns,
        possible=may.turns,
        places=BOOK | VERDICT,
        new_group=True,
    )
    yield Action(
        name="end_turns",
        menu=menu,
        words=N_("Stop alternating"),
        keys="",
        do=switching.end_turns,
        possible=may.end_turns,
        places=BOOK | VERDICT,
    )
    yield Action(
        name="which_change",
        menu=menu,
        words=N_("Which change did it"),
        keys="W",
        do=window.ways.to_which_change,
        possible=may.job,
        places=BOOK | VERDICT,
    )
    yield Action(
        name="pencil_advice",
        menu=menu,
        words=N_("Pencil this advice"),
        keys="P",
        do=right.pencil_advice,
        possible=may.advice,
        places=WHY,
        new_group=True,
    )
    yield Action(
        name="advice_to_owner",
        menu=menu,
        words=N_("Put advice on the statement, or take it off"),
        keys="",
        do=right.tell_the_owner,
        possible=may.advice,
        places=WHY,
    )
    yield Action(
        name="advice_to_entry",
        menu=menu,
        words=N_("Show its entry"),
        keys="",
        do=right.advice_to_entry,
        possible=may.advice,
        places=WHY,
    )
    yield Action(
        name="ask_drives",
        menu=menu,
        words=N_("Read drive health (administrator)…"),
        keys="",
        do=right.ask_the_drives,
        possible=may.why,
        places=WHY,
    )
    yield Action(
        name="save_pdf",
        menu=menu,
        words=N_("Save the statement as PDF…"),
        keys="",
        do=lambda: right.statement.ask_and_save("pdf"),
        possible=may.job,
        places=STATEMENT,
        new_group=True,
    )
    yield Action(
        name="save_html",
        menu=menu,
        words=N_("Save the statement as HTML…"),
        keys="",
        do=lambda: right.statement.ask_and_save("html"),
        possible=may.job,
        places=STATEMENT,
    )
    yield Action(
        name="undo",
        menu=menu,
        words=N_("Undo"),
        keys="Ctrl+Z",
        do=desk.undo,
        possible=may.write,
        new_group=True,
    )
    yield Action(
        name="redo",
        menu=menu,
        words=N_("Redo"),
        keys="Ctrl+Shift+Z",
        other_keys=("Ctrl+Y",),
        do=desk.redo,
        possible=may.write,
    )
