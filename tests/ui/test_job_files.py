"""A job goes out as one file and comes in from one, by menu, by dropping it, by opening it."""

from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QFileDialog, QLabel

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.changing.decisions import decide, decisions_in
from plucky_ledger.usecases.jobs.job_files import export_job, look_into, take_in_file
from plucky_ledger.usecases.jobs.jobs import find_job
from plucky_ledger.usecases.reading.entries import entries_known

CLOCK = "tideclock-sync"


def decided(ledger, number, decision, reason):
    entries = [entry for entry in entries_known(ledger, number) if entry.entry_id == CLOCK]
    decide(ledger, number, entries, decision, reason)


@pytest.fixture
def from_another_bench(demo_path, tmp_path) -> Path:
    """The demo's job as another bench went on with it."""
    path = tmp_path / "job-0417.plucky-job"
    with Ledger(demo_path) as own, Ledger(tmp_path / "bench.ledger") as bench:
        export_job(own, find_job(own, "0417"), path)
        number = take_in_file(bench, look_into(bench, path)).job
        decided(bench, number, Decision.KEEP, "read daily")
        export_job(bench, number, path)
    return path


def dropped_on(window, path):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    at, action = QPointF(10, 10), Qt.DropAction.CopyAction
    no_keys, buttons = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
    window.dropEvent(QDropEvent(at, action, data, buttons, no_keys))


def test_a_job_is_exported_and_dropped_elsewhere(on_demo, empty, qtbot, tmp_path):
    on_demo.action("export_job").trigger()
    (dialog,) = on_demo.findChildren(QFileDialog)
    assert dialog.selectedFiles()[0].endswith("job-0417.plucky-job")
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    path = tmp_path / "a.plucky-job"
    on_demo.job_files.export(path)
    qtbot.waitUntil(lambda: str(path) in on_demo.message)
    dropped_on(empty, path)
    qtbot.waitUntil(lambda: "is taken in as job 0417" in empty.message)
    qtbot.waitUntil(lambda: empty.desk.job is not None and not empty.desk.busy)
    assert empty.desk.job.card == on_demo.desk.job.card
    assert len(empty.desk.job.boots) == len(on_demo.desk.job.boots)
    empty.open_files([path])
    qtbot.waitUntil(lambda: "nothing in it that is not here" in empty.message)
    (tmp_path / "b.plucky-job").write_text("nothing")
    empty.job_files.take([tmp_path / "b.plucky-job", path])
    qtbot.waitUntil(lambda: "nothing in it that is not here" in empty.message)


def test_what_both_changed_is_chosen_side_by_side(on_demo, from_another_bench, qtbot):
    desk = on_demo.desk
    number = desk.job.number
    decided(desk.ledger, number, Decision.OFF, "not read")
    on_demo.job_files.take([from_another_bench])
    panel = on_demo.panels.differences
    qtbot.waitUntil(panel.isVisible)
    shown = "\n".join(label.text() for label in panel.findChildren(QLabel))
    assert "TideClock Sync" in shown
    assert "switch off" in shown
    assert "read daily" in shown
    panel.leave()
    assert decisions_in(desk.ledger, number)[CLOCK].decision is Decision.OFF
    on_demo.job_files.take([from_another_bench])
    qtbot.waitUntil(panel.isVisible)
    ours, theirs = panel.choices[f"decision:{CLOCK}"]
    assert ours.isChecked()
    theirs.click()
    assert not ours.isChecked()
    panel.take_button.click()
    qtbot.waitUntil(lambda: "new or newer" in on_demo.message)
    assert decisions_in(desk.ledger, number)[CLOCK].decision is Decision.KEEP
    qtbot.waitUntil(lambda: not desk.busy)
    assert on_demo.action("undo").isEnabled()
    on_demo.action("undo").trigger()
    qtbot.waitUntil(lambda: decisions_in(desk.ledger, number)[CLOCK].decision is Decision.OFF)
    on_demo.job_files.take([from_another_bench])
    qtbot.waitUntil(panel.isVisible)
