"""A night shift from the window: what it would measure, begun, and stopped."""

import pytest
from PySide6.QtCore import QTime

from plucky_ledger.core.entries.entry import EntryKind, EntryOwner, StartupEntry
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.ui.panels import night as panel_module
from plucky_ledger.usecases.recording.night_report import NightBoot, NightReport
from plucky_ledger.usecases.recording.night_shift import Night
from tests.ui.test_window import press

ENTRY = StartupEntry(
    entry_id="horn.service", name="Foghorn", owner=EntryOwner.SYSTEM, kind=EntryKind.SYSTEM_SERVICE
)

BOOTS = (NightBoot((), False, True),) * 3


@pytest.fixture
def shift(monkeypatch):
    """What the night shift is asked, instead of doing it."""
    done = {"report": None}

    def begin(_ledger, _place, _number, night, until, notice):
        done["begun"] = (night.boots, until)
        assert "press a key" in notice

    for name, does in (
        ("choose", lambda *_: Night((ENTRY,), (EntryState.OFF,), 24, 2.0)),
        ("begin", begin),
        ("restart", lambda *_: done.update(restarted=True)),
        ("report", lambda: done["report"]),
        ("stop", lambda: done.update(stopped=True)),
    ):
        monkeypatch.setattr(panel_module, name, does)
    return done


def test_a_night_shift_is_begun_and_stopped(qtbot, on_demo, shift):
    press(qtbot, on_demo, "Ctrl+Shift+P")
    panel = on_demo.panels.night
    qtbot.waitUntil(panel.begin_button.isEnabled)
    assert "24 times at most, about 48 minutes in all. Measured: Foghorn." in panel.measured.text()
    assert "no night shift" in panel.standing.text()
    assert not panel.stop_button.isVisible()
    panel.boots.setValue(8)
    assert "8 times at most, about 16 minutes" in panel.measured.text()
    panel.until.setTime(QTime(6, 30))
    panel.begin_button.click()
    qtbot.waitUntil(lambda: bool(shift.get("restarted")))
    qtbot.waitUntil(lambda: not panel.isVisible())
    boots, until = shift["begun"]
    assert (boots, until.hour, until.minute) == (8, 6, 30)
    shift["report"] = NightReport(job="0417", boots=BOOTS, planned=8, ended=None, restored=False)
    press(qtbot, on_demo, "Ctrl+Shift+P")
    qtbot.waitUntil(panel.stop_button.isVisible)
    assert "is running: 3 of 8 boots" in panel.standing.text()
    ended = Reason(ReasonCode.NIGHT_STOPPED)
    shift["report"] = NightReport(job="0417", boots=BOOTS, planned=8, ended=ended, restored=True)
    panel.stop_button.click()
    qtbot.waitUntil(lambda: "stopped by hand. Everything is as it was" in panel.standing.text())
    assert shift["stopped"]


def test_where_there_can_be_none_it_says_so(qtbot, on_demo, shift, monkeypatch):
    def refuse(*_):
        raise Refused(TroubleCode.NO_NIGHT_SHIFT, (Reason(ReasonCode.RESTART_IS_DUE),))

    monkeypatch.setattr(panel_module, "choose", refuse)
    press(qtbot, on_demo, "Ctrl+Shift+P")
    qtbot.waitUntil(lambda: "cannot begin: a restart is due first." in on_demo.message)
    assert not on_demo.panels.night.begin_button.isEnabled()
