"""The window on a real PC, offscreen: opened after an armed boot, with the real managers there."""

import json
import signal
import sys

import pytest

from tests.real_pc.entries import NEVER_STARTING, STARTING
from tests.real_pc.install import python_of
from tests.real_pc.pc import OUR_PACKAGES
from tests.real_pc.use import ledger_command, restart_armed, switched_on

OFF = {"brassbell-notifier.desktop", "harbour-import.service"}
SCRIPT = """
import json, os, signal, sys, time
from PySide6.QtWidgets import QApplication
from plucky_ledger.core.job.entry_states import pencilled_states
from plucky_ledger.core.job.job import state_of
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.ui.app import open_window
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.usecases.jobs.jobs import find_job
from plucky_ledger.usecases.changing.control import control_of_this_pc
from plucky_ledger.usecases.jobs.workplace import default_ledger

app = QApplication([])
window = open_window(default_ledger())
window.resize(1280, 800)
window.show()

def wait_for(condition):
    deadline = time.monotonic() + 100
    while not condition() or window.desk.busy:
        app.processEvents()
        assert time.monotonic() < deadline
        time.sleep(0.01)

window.desk.open_job(find_job(window.desk.ledger, sys.argv[3]))  # there may be other jobs
wait_for(lambda: window.desk.job is not None and window.desk.job.card.label == sys.argv[3])
wait_for(lambda: window.desk.job.boots)
canvas = window.right.lanes.canvas
if sys.argv[2] in ("look", "put back"):  # a boot was recorded since the window was open last
    wait_for(lambda: "in the book" in window.message)
if sys.argv[2] != "follow":  # the line of what was posted when something cut in has no boot yet
    wait_for(lambda: canvas.page and canvas.page.boot == window.desk.boot)
message, drawn = window.message, canvas.page
lanes = [lane.entry_id for lane in drawn.lanes] if drawn else []
window.right.show_lens(LensName.ENTRIES)
wait_for(lambda: window.right.entries.ready)
page = window.right.entries._page
entries = [row.entry.entry_id for row in (*page.rows, *page.system_rows)]
window.grab().save(sys.argv[1])


OFF = "brassbell-notifier.desktop", "harbour-import.service"
states = lambda: [found.state for found in control_of_this_pc().look(OFF).values()]
lens, panel = window.right.entries, window.panels.posting

def decide_and_post():
    for entry in OFF:
        wait_for(lambda: lens.ready and lens.model.rows)
        at = [row.row.entry.entry_id for row in lens.model.rows].index(entry)
        lens.table.selectRow(at)
        lens.decide(Decision.OFF)
        wait_for(lambda: entry in pencilled_states(window.desk.job))
        wait_for(lambda: lens.ready and lens.model.rows)
    window.switching.post()
    wait_for(panel.do_button.isEnabled)
    panel.do_button.click()
    wait_for(lambda: window.desk.job.last_posted is not None)

def put_back():
    window.switching.put_everything_back()
    wait_for(window.panels.putting_back.do_button.isEnabled)
    window.panels.putting_back.do_button.click()
    wait_for(lambda: len(window.desk.job.postings) == 2)

if sys.argv[2] == "cut":
    from plucky_ledger.ui.panels import posting
    posting.post = lambda *_: os.kill(os.getpid(), signal.SIGKILL)
    decide_and_post()
if sys.argv[2] == "follow":
    wait_for(lambda: window.desk.job.last_posted is not None)
if sys.argv[2] == "put back":
    put_back()
job = window.desk.job
print(json.dumps({
    "message": message, "next": window.book.button.text(), "lanes": lanes, "entries": entries,
    "states": states(), "rounds": [len(boots) for boots in job.rounds],
    "postings": [state_of(job, posting) for posting in job.postings],
    "line": window.desk.line, "said": window.message,
}))
window.close()
"""


def in_the_window(real_pc, job, what, killed=False):
    """What the window shows of a fresh start, after doing something there."""
    command = (
        "env",
        "QT_QPA_PLATFORM=offscreen",
        f"PYTHONPATH={OUR_PACKAGES}",
        "/opt/plucky/bin/python",
        "-c",
        SCRIPT,
        "window.png",
        what,
        job,
    )
    if killed:
        done = real_pc.tried(*command, user=True, timeout=300.0)
        assert done.returncode in (-signal.SIGKILL, 128 + signal.SIGKILL), done.stderr
        return {}
    return json.loads(real_pc.run(*command, user=True, timeout=300.0).splitlines()[-1])


def test_the_window_through_a_job_with_restarts_and_a_kill(real_pc):
    """Decide, post, killed between the PC and the book, restart, verdict, put back, restart."""
    if python_of(real_pc.disk) != f"{sys.version_info[0]}.{sys.version_info[1]}":
        pytest.skip("its Python is another than ours, and the window is lent our packages")
    switched_on(real_pc)
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "Window PC").strip()
    restart_armed(real_pc, job)
    shown = in_the_window(real_pc, job, "look")
    assert shown["rounds"] == [1]
    assert shown["states"] == ["on", "on"]
    assert "in the book" in shown["message"]
    assert shown["next"] == "Arm and restart…"
    assert set(shown["lanes"]) >= set(STARTING)
    assert set(shown["entries"]) >= {*STARTING, *NEVER_STARTING}
    assert real_pc.path("/home/bench/window.png").stat().st_size > 20_000
    in_the_window(real_pc, job, "cut", killed=True)
    shown = in_the_window(real_pc, job, "follow")
    assert (shown["states"], shown["postings"]) == (["off", "off"], ["posted"])
    restart_armed(real_pc, job, frozenset(STARTING) - OFF)
    shown = in_the_window(real_pc, job, "put back")
    assert shown["rounds"] == [1, 1, 0]
    assert shown["states"] == ["on", "on"]
    assert shown["postings"] == ["struck_out", "posted"]
    assert not set(shown["lanes"]) & OFF
    restart_armed(real_pc, job)
    shown = in_the_window(real_pc, job, "look")
    assert (shown["rounds"], shown["postings"]) == ([1, 1, 1], ["struck_out", "in_force"])
    assert set(shown["lanes"]) >= set(STARTING)
