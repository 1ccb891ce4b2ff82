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
        "write_down",
        menu,
        N_("Write down changes…"),
        "Ctrl+D",
        panels.show_write_down,
        may.job_and_write,
        BOOK,
    )
    yield Action(
        "write_down_outside",
        menu,
        N_("Write down what others changed"),
        "Ctrl+Shift+D",
        window.write_down_outside,
        may.something_outside,
        BOOK,
    )
    yield Action(
        "post",
        menu,
        N_("Post what is pencilled"),
        "Ctrl+Return",
        switching.post,
        may.pencilled,
        BOOK | ENTRIES,
    )
    yield Action(
        "rub_out",
        menu,
        N_("Rub out what is pencilled"),
        "Ctrl+Backspace",
        window.rub_out,
        may.pencilled,
        BOOK,
    )
    yield Action(
        "put_back",
        menu,
        N_("Put this posting back"),
        "Ctrl+U",
        switching.strike_out,
        may.done_posting,
        BOOK | VERDICT,
    )
    yield Action(
        "put_everything_back",
        menu,
        N_("Put everything back"),
        "Ctrl+Shift+U",
        switching.put_everything_back,
        may.something_in_force,
        BOOK,
    )
    yield Action(
        "put_back_cut_off",
        menu,
        N_("Put back what was cut off"),
        "",
        switching.put_back_cut_off,
        may.job_and_write,
    )
    yield Action(
        "begin_turns",
        menu,
        N_("Take boots in turns"),
        "Ctrl+Shift+T",
        switching.begin_turns,
        may.turns,
        BOOK | VERDICT,
        new_group=True,
    )
    yield Action(
        "end_turns",
        menu,
        N_("Take no more in turns"),
        "",
        switching.end_turns,
        may.end_turns,
        BOOK | VERDICT,
    )
    yield Action(
        "which_change",
        menu,
        N_("Which change did it"),
        "W",
        window.ways.to_which_change,
        may.job,
        BOOK | VERDICT,
    )
    yield Action(
        "pencil_advice",
        menu,
        N_("Pencil this advice"),
        "P",
        right.pencil_advice,
        may.advice,
        WHY,
        new_group=True,
    )
    yield Action(
        "advice_to_owner",
        menu,
        N_("Advice for the owner, or not"),
        "",
        right.tell_the_owner,
        may.advice,
        WHY,
    )
    yield Action(
        "advice_to_entry",
        menu,
        N_("To the entry it is about"),
        "",
        right.advice_to_entry,
        may.advice,
        WHY,
    )
    yield Action(
        "ask_drives", menu, N_("Ask the drives themselves…"), "", right.ask_the_drives, may.why, WHY
    )
    yield Action(
        "save_pdf",
        menu,
        N_("Save the statement as PDF…"),
        "",
        lambda: right.statement.ask_and_save("pdf"),
        may.job,
        STATEMENT,
        new_group=True,
    )
    yield Action(
        "save_html",
        menu,
        N_("Save the statement as HTML…"),
        "",
        lambda: right.statement.ask_and_save("html"),
        may.job,
        STATEMENT,
    )
    yield Action("undo", menu, N_("Undo"), "Ctrl+Z", desk.undo, may.write, new_group=True)
    yield Action("redo", menu, N_("Do again"), "Ctrl+Shift+Z", desk.redo, may.write)
