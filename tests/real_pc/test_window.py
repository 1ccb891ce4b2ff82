"""The window on a real PC, offscreen: opened after an armed boot, with the real managers there."""

import json

from tests.real_pc.entries import NEVER_STARTING, STARTING
from tests.real_pc.pc import OUR_PACKAGES
from tests.real_pc.use import ledger_command, switched_on, wait_until_known

SCRIPT = """
import json, sys, time
from PySide6.QtWidgets import QApplication
from plucky_ledger.ui.app import open_window
from plucky_ledger.ui.right_page import LensName
from plucky_ledger.usecases.control import control_of_this_pc
from plucky_ledger.usecases.workplace import default_ledger

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

wait_for(lambda: window.desk.job is not None and window.desk.job.boots)
message = window.message
wait_for(lambda: window.desk.analysis(window.desk.boot) is not None)
lanes = [lane.entry_id for lane in window.right.lanes.canvas.page.lanes]
window.right.show_lens(LensName.ENTRIES)
wait_for(lambda: window.right.entries.ready)
page = window.right.entries._page
entries = [row.entry.entry_id for row in (*page.rows, *page.system_rows)]
window.grab().save(sys.argv[1])

# Decide, post, put back: the PC follows.
from plucky_ledger.core.book.entry_states import pencilled_states
from plucky_ledger.core.entries.decisions import Decision
lens, panel = window.right.entries, window.panels.posting
OFF = "brassbell-notifier.desktop", "harbour-import.service"
states = lambda: [found.state for found in control_of_this_pc().look(OFF).values()]
before = states()
for entry in OFF:
    at = [row.row.entry.entry_id for row in lens.model.rows].index(entry)
    lens.table.selectRow(at)
    lens.decide(Decision.OFF)
    wait_for(lambda: entry in pencilled_states(window.desk.job))
    wait_for(lambda: lens.ready and lens.model.rows)
window.switching.post()
wait_for(panel.post_button.isEnabled)
panel.post_button.click()
wait_for(lambda: window.desk.job.last_posted is not None)
posted, off = window.message, states()
window.switching.strike_out()
wait_for(lambda: len(window.desk.job.postings) == 2)
back = states()
print(json.dumps({"message": message, "next": window.book.button.text(), "lanes": lanes,
                  "entries": entries, "boots": len(window.desk.job.boots), "posted": posted,
                  "states": [before, off, back]}))
window.close()
"""


def test_after_an_armed_boot_the_window_shows_what_came(real_pc):
    switched_on(real_pc)
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "Window PC").strip()
    ledger_command(real_pc, "arm", job, "--boots", "1")
    real_pc.tried("systemctl", "reboot")
    real_pc.wait_until_off()
    switched_on(real_pc)
    wait_until_known(real_pc)
    real_pc.run("systemctl", "stop", "plucky-ledger-recorder.service")
    told = real_pc.run(
        "env", "QT_QPA_PLATFORM=offscreen", f"PYTHONPATH={OUR_PACKAGES}",
        "/opt/plucky/bin/python", "-c", SCRIPT, "window.png", user=True, timeout=300.0,
    )  # fmt: skip
    shown = json.loads(told.splitlines()[-1])
    assert shown["boots"] == 1
    assert shown["states"] == [["on", "on"], ["off", "off"], ["on", "on"]]
    assert "2 entries are switched" in shown["posted"]
    assert "in the book" in shown["message"]
    assert shown["next"] == "Arm and restart…"
    assert set(shown["lanes"]) >= set(STARTING)
    assert set(shown["entries"]) >= {*STARTING, *NEVER_STARTING}
    assert real_pc.path("/home/bench/window.png").stat().st_size > 20_000
