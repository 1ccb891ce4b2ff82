"""The list of all actions of the window."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.job import changes_in_force, state_of
from plucky_ledger.core.job.noticed import outside_of
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.ui.actions import Action, Menu, Place
from plucky_ledger.ui.right_page import LENS_TITLES, LensName
from plucky_ledger.ui.theme import Appearance, choose_appearance
from plucky_ledger.usecases.jobs.manual import Part
from plucky_ledger.usecases.jobs.opening import is_salvaged
from plucky_ledger.wording.labels import DECISION_KEYS, LABELS
from plucky_ledger.wording.lanes import ORDERS
from plucky_ledger.wording.language import N_

if TYPE_CHECKING:
    from plucky_ledger.ui.window import Window

DECISIONS = (
    (Decision.KEEP, N_("Keep")),
    (Decision.OFF, N_("Switch off")),
    (Decision.LATER, N_("Start later")),
    (Decision.LOOK_UP, N_("Look it up first")),
)
APPEARANCES = (
    (Appearance.AS_DESKTOP, N_("As the desktop")),
    (Appearance.LIGHT, N_("Light")),
    (Appearance.DARK, N_("Dark")),
)
BOOK, ENTRIES = frozenset({Place.BOOK}), frozenset({Place.ENTRIES})
LANES, LOAD = frozenset({Place.LANES}), frozenset({Place.LOAD})
VERDICT, STATEMENT = frozenset({Place.VERDICT}), frozenset({Place.STATEMENT})
WHY = frozenset({Place.WHY})


class _Possible:
    """When actions make sense."""

    def __init__(self, window: "Window") -> None:
        self._window = window
        self._desk = window.desk

    def write(self) -> bool:
        return self._desk.writable

    def job(self) -> bool:
        return self._desk.job is not None

    def save_repaired(self) -> bool:
        return is_salvaged(self._desk.ledger)

    def job_and_write(self) -> bool:
        return self.job() and self.write()

    def boot_that_counts(self) -> bool:
        boot = self._desk.boot
        return self.write() and boot is not None and boot.counts

    def boot_aside(self) -> bool:
        boot = self._desk.boot
        return self.write() and boot is not None and not boot.counts

    def boot(self) -> bool:
        return self.write() and self._desk.boot is not None

    def pencilled(self) -> bool:
        job = self._desk.job
        return self.write() and job is not None and job.pencilled is not None

    def done_posting(self) -> bool:
        job, posting = self._desk.job, self._desk.selection.posting
        if job is None or posting is None or not self.write():
            return False
        done = state_of(job, posting) in {PostingState.IN_FORCE, PostingState.POSTED}
        return done and bool(posting.own_changes)

    def something_in_force(self) -> bool:
        job = self._desk.job
        return self.write() and job is not None and bool(changes_in_force(job))

    def turns(self) -> bool:
        job = self._desk.job
        return self.write() and job is not None and job.turns is None and self._desk.line > 0

    def end_turns(self) -> bool:
        job = self._desk.job
        return self.write() and job is not None and job.turns is not None

    def something_outside(self) -> bool:
        job = self._desk.job
        return self.write() and job is not None and outside_of(job) is not None

    def entries(self) -> bool:
        return self.job() and self._window.right.lens is LensName.ENTRIES

    def entries_and_write(self) -> bool:
        return self.entries() and self.write()

    def lanes(self) -> bool:
        return self.job() and self._window.right.lens is LensName.LANES

    def load(self) -> bool:
        return self.job() and self._window.right.lens is LensName.LOAD

    def load_and_write(self) -> bool:
        return self.load() and self.write()

    def why(self) -> bool:
        return self.job() and self._window.right.lens is LensName.WHY

    def advice(self) -> bool:
        return self.why() and self.write()

    def stop(self) -> bool:
        return self.load() and self._window.right.load.stop_button.isEnabled()

    def decide(self) -> bool:
        return (self.entries() or self.lanes()) and self.write()


def window_actions(window: "Window") -> tuple[Action, ...]:
    """Everything that can be done in a window, in the order of the menus."""
    may = _Possible(window)
    return (
        *_job(window, may),
        *_record(window, may),
        *_entries(window, may),
        *_book(window, may),
        *_view(window, may),
        *_help(window, may),
    )


def _job(window: "Window", may: _Possible) -> Iterator[Action]:
    menu, panels = Menu.JOB, window.panels
    yield Action("job_shelf", menu, N_("Job shelf"), "Ctrl+J", window.show_shelf)
    yield Action("take_in", menu, N_("Take in a PC…"), "Ctrl+N", panels.show_take_in, may.write,
                 frozenset({Place.SHELF}))  # fmt: skip
    yield Action("take_in_another", menu, N_("Take in another PC…"), "",
                 panels.show_take_in_another, may.write, frozenset({Place.SHELF}))  # fmt: skip
    yield Action("demo", menu, N_("Look at the demo"), "", window.open_demo,
                 places=frozenset({Place.SHELF}))  # fmt: skip
    yield Action("job_card", menu, N_("Job card…"), "Ctrl+E", panels.show_card, may.job_and_write,
                 BOOK)  # fmt: skip
    yield Action("visit", menu, N_("Take it in again…"), "Ctrl+Shift+N", panels.show_visit,
                 may.job_and_write, BOOK)  # fmt: skip
    yield Action("repaired_copy", menu, N_("Save a repaired copy…"), "", window.files.ask_for_copy,
                 may.save_repaired, new_group=True)  # fmt: skip
    yield Action("quit", menu, N_("Quit"), "Ctrl+Q", window.close, new_group=True)


def _record(window: "Window", may: _Possible) -> Iterator[Action]:
    menu, panels, job = Menu.RECORD, window.panels, may.job_and_write
    yield Action("record", menu, N_("Record a boot…"), "Ctrl+R", panels.show_recording, job, BOOK)
    yield Action("arm", menu, N_("Record the next boots, or read past ones…"), "Ctrl+P",
                 panels.show_arming, job)  # fmt: skip
    yield Action("night", menu, N_("Night shift…"), "Ctrl+Shift+P", panels.show_night, job)
    yield Action("stopwatch", menu, N_("Time with the stopwatch…"), "Ctrl+T",
                 panels.show_stopwatch, job)  # fmt: skip
    yield Action("type_figures", menu, N_("Type figures in…"), "Ctrl+Y", panels.show_typed, job)
    yield Action(
        "import", menu, N_("Import recordings…"), "Ctrl+I", window.files.ask_for_recordings, job
    )
    yield Action("correct_marks", menu, N_("Correct the marks…"), "Ctrl+M", panels.show_correct,
                 may.boot, LANES, new_group=True)  # fmt: skip
    yield Action("set_aside", menu, N_("Set this boot aside…"), "Ctrl+B", panels.show_aside,
                 may.boot_that_counts, BOOK | LANES)  # fmt: skip
    yield Action("bring_back", menu, N_("Bring this boot back"), "Ctrl+Shift+B",
                 window.bring_back, may.boot_aside, BOOK | LANES)  # fmt: skip


def _entries(window: "Window", may: _Possible) -> Iterator[Action]:
    menu, panels, right = Menu.ENTRIES, window.panels, window.right
    for decision, words in DECISIONS:
        yield Action(f"decide_{decision}", menu, words, DECISION_KEYS[decision],
                     lambda decision=decision: right.decide(decision),  # type: ignore[misc]
                     may.decide, ENTRIES | LANES)  # fmt: skip
    yield Action("give_reason", menu, N_("Give the reason"), "R", window.ways.to_reason,
                 may.entries_and_write, ENTRIES)  # fmt: skip
    yield Action("put_entry_back", menu, N_("Put this entry back"), "U", window.put_entry_back,
                 may.decide, ENTRIES | LANES)  # fmt: skip
    yield Action("find_entry", menu, N_("Find an entry"), "Ctrl+G", window.ways.find_entry,
                 may.entries, new_group=True)  # fmt: skip
    yield Action("unfold_system", menu, N_("Unfold the parts of the system"), "Ctrl+Shift+L",
                 window.ways.unfold_system, may.entries)  # fmt: skip
    yield Action("stop_now", menu, N_("Stop now"), "", right.stop_program,
                 may.stop, LOAD)  # fmt: skip
    yield Action("look_up_program", menu, N_("Look this program up"), "",
                 right.look_up_program, may.load_and_write, LOAD)  # fmt: skip
    yield Action("set_program_aside", menu, N_("Set this program aside, or bring it back"), "",
                 right.set_program_aside, may.load_and_write, LOAD)  # fmt: skip
    yield Action("look_up_list", menu, N_("Look-up list…"), "Ctrl+K", panels.show_look_up,
                 may.write, new_group=True)  # fmt: skip
    yield Action("type_entries", menu, N_("Type entries in…"), "Ctrl+Shift+Y",
                 panels.show_type_entries, may.job_and_write)  # fmt: skip
    yield Action("grades", menu, N_("Grades…"), "", panels.show_grades, may.write)


def _book(window: "Window", may: _Possible) -> Iterator[Action]:
    menu, panels, desk, switching = Menu.BOOK, window.panels, window.desk, window.switching
    right = window.right
    yield Action("write_down", menu, N_("Write down changes…"), "Ctrl+D", panels.show_write_down,
                 may.job_and_write, BOOK)  # fmt: skip
    yield Action("write_down_outside", menu, N_("Write down what others changed"), "Ctrl+Shift+D",
                 window.write_down_outside, may.something_outside, BOOK)  # fmt: skip
    yield Action("post", menu, N_("Post what is pencilled"), "Ctrl+Return", switching.post,
                 may.pencilled, BOOK | ENTRIES)  # fmt: skip
    yield Action("rub_out", menu, N_("Rub out what is pencilled"), "Ctrl+Backspace",
                 window.rub_out, may.pencilled, BOOK)  # fmt: skip
    yield Action("put_back", menu, N_("Put this posting back"), "Ctrl+U", switching.strike_out,
                 may.done_posting, BOOK | VERDICT)  # fmt: skip
    yield Action("put_everything_back", menu, N_("Put everything back"), "Ctrl+Shift+U",
                 switching.put_everything_back, may.something_in_force, BOOK)  # fmt: skip
    yield Action("put_back_cut_off", menu, N_("Put back what was cut off"), "",
                 switching.put_back_cut_off, may.job_and_write)  # fmt: skip
    yield Action("begin_turns", menu, N_("Take boots in turns"), "Ctrl+Shift+T",
                 switching.begin_turns, may.turns, BOOK | VERDICT, new_group=True)  # fmt: skip
    yield Action("end_turns", menu, N_("Take no more in turns"), "", switching.end_turns,
                 may.end_turns, BOOK | VERDICT)  # fmt: skip
    yield Action("which_change", menu, N_("Which change did it"), "W", window.ways.to_which_change,
                 may.job, BOOK | VERDICT)  # fmt: skip
    yield Action("pencil_advice", menu, N_("Pencil this advice"), "P", right.pencil_advice,
                 may.advice, WHY, new_group=True)  # fmt: skip
    yield Action("advice_to_owner", menu, N_("Advice for the owner, or not"), "",
                 right.tell_the_owner, may.advice, WHY)  # fmt: skip
    yield Action("advice_to_entry", menu, N_("To the entry it is about"), "",
                 right.advice_to_entry, may.advice, WHY)  # fmt: skip
    yield Action("ask_drives", menu, N_("Ask the drives themselves…"), "",
                 right.ask_the_drives, may.why, WHY)  # fmt: skip
    yield Action("save_pdf", menu, N_("Save the statement as PDF…"), "",
                 lambda: right.statement.ask_and_save("pdf"), may.job, STATEMENT,
                 new_group=True)  # fmt: skip
    yield Action("save_html", menu, N_("Save the statement as HTML…"), "",
                 lambda: right.statement.ask_and_save("html"), may.job, STATEMENT)  # fmt: skip
    yield Action("undo", menu, N_("Undo"), "Ctrl+Z", desk.undo, may.write, new_group=True)
    yield Action("redo", menu, N_("Do again"), "Ctrl+Shift+Z", desk.redo, may.write)


def _view(window: "Window", may: _Possible) -> Iterator[Action]:
    menu, lanes = Menu.VIEW, window.right.lanes
    for index, lens in enumerate(LensName, 1):
        yield Action(f"lens_{lens}", menu, LENS_TITLES[lens], str(index),
                     lambda lens=lens: window.right.show_lens(lens))  # type: ignore[misc] # fmt: skip
    yield Action("other_page", menu, N_("Other page"), "F6", window.ways.other_page, new_group=True)
    canvas = lanes.canvas
    yield Action("closer", menu, N_("Lanes: closer"), "Ctrl++", lambda: canvas.zoom(1.25))
    yield Action("further", menu, N_("Lanes: further away"), "Ctrl+-", lambda: canvas.zoom(0.8))
    yield Action("whole_boot", menu, N_("Lanes: whole boot"), "Ctrl+0", canvas.fit, places=LANES)
    yield Action(
        "find_lane", menu, N_("Lanes: find"), "Ctrl+F", window.ways.find_lane, places=LANES
    )
    yield Action("fold_lanes", menu, N_("Lanes: fold the system"), "Ctrl+L", lanes.fold.toggle,
                 places=LANES)  # fmt: skip
    yield Action("lanes_table", menu, N_("Lanes: as a table"), "T", lanes.as_table.toggle,
                 may.lanes, LANES)  # fmt: skip
    for order, words in ORDERS.items():
        yield Action(f"lanes_{order}", menu, words, "",
                     lambda order=order: lanes.order_by(order),  # type: ignore[misc]
                     submenu=N_("Order of the lanes"))  # fmt: skip
    for index, measure in enumerate(Measure):
        yield Action(f"keep_in_{measure}", menu, LABELS[Measure][measure], "",
                     lambda measure=measure: window.desk.keep_book_in(measure),  # type: ignore[misc]
                     submenu=N_("Book kept in"), new_group=index == 0)  # fmt: skip
    for appearance, words in APPEARANCES:
        yield Action(f"appearance_{appearance}", menu, words, "",
                     lambda appearance=appearance: choose_appearance(appearance),  # type: ignore[misc]
                     submenu=N_("Appearance"))  # fmt: skip


def _help(window: "Window", may: _Possible) -> Iterator[Action]:
    menu = Menu.HELP
    yield Action("explain", menu, N_("Manual"), "F1", window.ways.to_manual)
    yield Action("basis", menu, N_("What this figure rests on"), "F2", window.ways.to_basis,
                 may.job, BOOK | ENTRIES | LANES | LOAD | VERDICT | WHY)  # fmt: skip
    yield Action("methods", menu, N_("How the numbers are made"), "",
                 lambda: window.panels.show_manual(Part.METHODS, ""))  # fmt: skip
    yield Action("keys", menu, N_("Keys…"), "Ctrl+F1", window.show_keys)
    yield Action("version", menu, N_("Version"), "", window.tell_version)
