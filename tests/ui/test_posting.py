"""Posting on a real PC from the window: what is made there, what by hand, and what fails."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QApplication, QLabel

from plucky_ledger.capture import real_pc
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import PutBack, Reversible, Switchable, Switched
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card, changes_in_force, state_of
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.usecases.changing import putting_back, switching
from plucky_ledger.usecases.changing.postings import pencil
from plucky_ledger.usecases.jobs.jobs import take_in
from plucky_ledger.usecases.recording.boots import add_typed
from tests.ui.conftest import confirm
from tests.ui.test_window import press, settle

BY_SOCKET = Reason.of(ReasonCode.TRIGGERED_BY, names="foghorn.socket")


class ControlledPc:
    """A PC that does as it is told, or refuses."""

    def __init__(self):
        self.states = {"foghorn.service": EntryState.ON}
        self.kept = {}
        self.damaged = []
        self.refuses = True

    def look(self, entry_ids):
        possible = (EntryState.ON, EntryState.OFF, EntryState.OFF_FOR_GOOD)
        return {
            name: Switchable(
                entry_id=name,
                state=self.states[name],
                possible=possible,
                delivered=EntryState.ON,
                started_by=(BY_SOCKET,),
                needed_by=("quay.service",),
                administrators=True,
            )
            for name in entry_ids
        }

    def switch(self, order):
        if self.refuses:
            raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR)
        done = [
            Switched(w.entry_id, w.name, self.states[w.entry_id], w.state, (BY_SOCKET,))
            for w in order.wishes
        ]
        self.kept[order.key] = {w.entry_id for w in order.wishes}
        self.states |= {w.entry_id: w.state for w in order.wishes}
        return done

    def put_back(self, which):
        undone = [e for key in which.keys for e in self.kept.pop(key, ())]
        self.states |= dict.fromkeys(undone, EntryState.ON)
        return [PutBack(entry_id) for entry_id in undone]

    def changes(self):
        return [
            Reversible(
                key=key, at="", job="", entries=tuple(entries), put_back=(), unfinished=False
            )
            for key, entries in self.kept.items()
        ]

    def left_out(self):
        return self.damaged


@pytest.fixture
def pc(monkeypatch):
    pc = ControlledPc()
    for module in (switching, putting_back):
        monkeypatch.setattr(module, "control_of", lambda _job: pc)
    return pc


@pytest.fixture
def window(qtbot, empty):
    """A real PC with an opening and two pencilled changes, one of them to be made by hand."""
    ledger = empty.desk.ledger
    number = take_in(ledger, Card("", "Till PC"), Facts())
    add_typed(ledger, number, {Measure.SYSTEM_UP: 60.0})
    off = Change(
        kind=ChangeKind.STARTUP_ENTRY,
        what="Foghorn",
        why="",
        entry_id="foghorn.service",
        new_state=EntryState.OFF,
    )
    pencil(ledger, number, (off, Change(kind=ChangeKind.SWAP, what="8 GB of swap")))
    empty.desk.open_job(number)
    qtbot.waitUntil(lambda: empty.desk.job is not None)
    settle(qtbot, empty)
    return empty


def posting_panel(qtbot, window):
    press(qtbot, window, "Ctrl+Return")
    panel = window.panels.posting
    qtbot.waitUntil(lambda: len(panel.boxes) > 0)
    return panel


def test_the_pc_is_changed_then_the_book_and_both_are_put_back(qtbot, window, pc):
    panel = posting_panel(qtbot, window)
    assert not panel.do_button.isEnabled()
    panel.boxes[0].click()
    assert panel.do_button.isEnabled()
    panel.do_button.click()
    qtbot.waitUntil(lambda: "no password was accepted" in window.message)
    assert window.desk.job.pencilled is not None
    assert pc.states["foghorn.service"] is EntryState.ON
    pc.refuses = False
    qtbot.waitUntil(panel.do_button.isEnabled)
    panel.do_button.click()
    qtbot.waitUntil(lambda: window.desk.job.pencilled is None)
    assert "Foghorn may start all the same: started through foghorn.socket" in window.message
    (posting,) = window.desk.job.postings
    assert posting.changes[0].old_state is EntryState.ON
    assert pc.states["foghorn.service"] is EntryState.OFF
    press(qtbot, window, "Ctrl+Z")
    settle(qtbot, window)
    assert "Put the posting back instead" in window.message
    press(qtbot, window, "Ctrl+Shift+U")
    panel = window.panels.putting_back
    qtbot.waitUntil(lambda: len(panel.boxes) > 0)
    assert [box.text() for box in panel.boxes] == ["put back: 8 GB of swap"]
    texts = [text.text() for text in panel.findChildren(QLabel)]
    assert "→ put back: Foghorn" in texts
    assert not panel.do_button.isEnabled()
    panel.boxes[0].click()
    panel.do_button.click()
    qtbot.waitUntil(lambda: len(window.desk.job.postings) == 2)
    assert "Put back." in window.message
    assert pc.states["foghorn.service"] is EntryState.ON
    assert state_of(window.desk.job, window.desk.job.postings[0]) is PostingState.STRUCK_OUT


def test_what_was_made_when_something_cut_in_is_posted_at_the_next_opening(qtbot, window, pc):
    """Nothing is made twice, and what is to be done by hand stays pencilled: nobody said it is."""
    pc.refuses = False
    number = window.desk.job.number
    switching.switch_pencilled(window.desk.ledger, number)
    window.desk.close_job()
    window.desk.open_job(number)
    qtbot.waitUntil(lambda: window.desk.job is not None and window.desk.job.last_posted is not None)
    posting, left = window.desk.job.postings
    assert [change.what for change in posting.changes] == ["Foghorn"]
    assert (left.posted_at, [change.what for change in left.changes]) == (None, ["8 GB of swap"])
    assert state_of(window.desk.job, posting) is PostingState.POSTED
    assert not switching.follow(window.desk.ledger, number).wrote
    why = Reason.of(ReasonCode.LEFT_OUT_OF_JOURNAL, path="/j/1.json", why="too_large")
    pc.damaged = [why]
    window.desk.close_job()
    window.desk.open_job(number)
    qtbot.waitUntil(lambda: "/j/1.json is left out of the journal" in window.message)


def test_what_cannot_be_set_so_is_left_to_be_done_by_hand(qtbot, window, pc):
    """Beside what can be: nothing is refused for it."""
    gone = Change(
        kind=ChangeKind.STARTUP_ENTRY,
        what="Quay",
        why="",
        entry_id="foghorn.service",
        new_state=EntryState.OFF_HERE,
    )
    pencil(window.desk.ledger, window.desk.job.number, (gone,))
    panel = posting_panel(qtbot, window)
    assert [box.text() for box in panel.boxes] == ["8 GB of swap", "Quay off in this desktop"]
    made = switching.switch_pencilled
    pc.refuses = False
    done = made(window.desk.ledger, window.desk.job.number)
    assert [one.after for one in done.switched] == [EntryState.OFF]
    assert [change.what for change in done.by_hand] == ["8 GB of swap", "Quay"]


def test_a_pc_that_has_not_told_which_it_is_gets_a_list_to_be_done_by_hand(qtbot, window, tmp_path):
    """It may be any: the one we run on is never switched for it."""
    panel = posting_panel(qtbot, window)
    assert [box.text() for box in panel.boxes] == ["Foghorn switched off", "8 GB of swap"]
    panel.copy_button.click()
    assert QApplication.clipboard().text().splitlines() == [
        "0001  Till PC",
        "☐ Foghorn switched off",
        "☐ 8 GB of swap",
    ]
    printer = QPrinter()
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "list.pdf"))
    panel.print_to(printer)
    assert (tmp_path / "list.pdf").read_bytes().startswith(b"%PDF")
    for chosen in (panel, window.panels.putting_back):
        if chosen is not panel:
            press(qtbot, window, "Ctrl+U")
            qtbot.waitUntil(lambda: len(window.panels.putting_back.boxes) == 2)
        for box in chosen.boxes:
            box.click()
        chosen.do_button.click()
        qtbot.waitUntil(lambda: "Now restart the PC" in window.message)
        window.desk.door.say("")
    qtbot.waitUntil(lambda: len(window.desk.job.postings) == 2)


def test_one_entry_is_put_back_and_the_rest_stays(qtbot, on_demo):
    """On the stand-in, from the keyboard, beside what else its posting did."""
    press(qtbot, on_demo, "2")
    lens = on_demo.right.entries
    qtbot.waitUntil(lambda: lens.ready)
    names = [listed.row.entry.entry_id for listed in lens.model.rows]
    lens.table.selectRow(names.index("lanternprint-agent"))
    in_force = {change.entry_id for change in changes_in_force(on_demo.desk.job)}
    lens.table.setFocus()
    qtbot.keyClick(lens.table, Qt.Key.Key_U)
    confirm(qtbot, on_demo.panels.putting_back)
    qtbot.waitUntil(lambda: "Put back." in on_demo.message)
    settle(qtbot, on_demo)
    now = {change.entry_id for change in changes_in_force(on_demo.desk.job)}
    assert in_force - now == {"lanternprint-agent"}
    press(qtbot, on_demo, "2")
    qtbot.waitUntil(lambda: lens.ready)
    lens.table.setFocus()
    qtbot.keyClick(lens.table, Qt.Key.Key_U)
    qtbot.waitUntil(lambda: "as it was at first" in on_demo.message)


def test_the_value_before_is_read_from_this_pc(qtbot, empty, monkeypatch):
    here = WhichPc(PcKind.REAL, "bench")
    monkeypatch.setattr(real_pc, "machine_identity", lambda: here.name)
    number = take_in(empty.desk.ledger, Card("", "Bench PC"), Facts(), here)
    empty.desk.open_job(number)
    qtbot.waitUntil(lambda: empty.desk.job is not None)
    press(qtbot, empty, "Ctrl+D")
    line, *_ = empty.panels.write_down.rows
    line.kind.setCurrentText("more memory")
    qtbot.waitUntil(lambda: line.before.text().endswith(" GB"))
