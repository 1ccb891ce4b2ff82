"""Names that look like markup or commands: nothing from outside is ever taken for either."""

import ast
import re
from pathlib import Path

import pytest
from PySide6.QtCore import QAbstractItemModel, QModelIndex, Qt
from PySide6.QtWidgets import QAbstractItemView, QApplication, QComboBox, QLabel, QWidget

import plucky_ledger
from plucky_ledger.cli.main import main
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.recording.lines import (
    ActivityLine,
    EndLine,
    EntryLine,
    Header,
    MarkLine,
    PcFacts,
    ProgramLine,
    ProgramRow,
    ProgramsLine,
    SampleLine,
)
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.usecases.changing.decisions import decide
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.reading.entries import entries_known
from plucky_ledger.usecases.recording.boots import import_recording, set_boot_aside
from tests.cli.test_commands import run
from tests.recording.test_recording import plain

HOSTILE = '<img src="/dev/zero">[/b][red]\x1b[2J\x9b31m\u202eeman</b>&lt;'
TAMED = re.compile(r"\x1b|\x9b|\u202e")


@pytest.fixture
def hostile_path(tmp_path):
    """A ledger in which every text from outside is hostile."""
    name = HOSTILE
    header = Header(
        "plucky-ledger-recording",
        1,
        name,
        "id",
        "2026-11-02T08:00:00+00:00",
        name,
        PcFacts(name, name, name, 2, 4 << 30),
    )
    samples = [SampleLine(float(n), min(n, 20) * 0.9, 0, 0, 0.0, 1 << 30, 90) for n in range(1, 60)]
    boot = tmp_path / "boot.jsonl"
    boot.write_bytes(
        plain(
            header,
            MarkLine("kernel started", 0.0, name),
            MarkLine("system up", 12.0, name),
            EntryLine(f"{name}.service", name, "system", "system service", name, name, group="/a"),
            ActivityLine(f"{name}.service", 1.0, 2.0, 11.0, None, name),
            ProgramLine(1, 9, 9, 1, name[:15], name, 0, "/a", 2.0),
            *(ProgramsLine(s.seconds, (ProgramRow(1, s.seconds * 0.1, 1 << 28),)) for s in samples),
            *samples,
            EndLine(9, 9, name),
        )
    )
    path = tmp_path / "hostile.ledger"
    with Ledger(path) as ledger:
        number = take_in(
            ledger, Card("", name, name, name), Facts(os_release=name, kernel=name, cpu_model=name)
        )
        imported = import_recording(ledger, number, boot)
        decide(ledger, number, entries_known(ledger, number), Decision.OFF, name)
        assert imported.boot is not None
        with_reason = tmp_path / "other.jsonl"
        with_reason.write_bytes(boot.read_bytes().replace(b'"boot_id":"id"', b'"boot_id":"i2"'))
        other = import_recording(ledger, number, with_reason)
        set_boot_aside(ledger, number, other.boot, name)
        assert len(read_job(ledger, number).opening_boots) == 2
    return path


def widgets(window):
    return [window, *window.findChildren(QWidget)]


def tips(window):
    """Every tool tip there is, those of rows and columns as well."""
    for widget in widgets(window):
        yield widget.toolTip()
        yield widget.whatsThis()
        for action in widget.actions():
            yield action.toolTip()
        model = widget.model() if isinstance(widget, QAbstractItemView | QComboBox) else None
        if isinstance(model, QAbstractItemModel):
            for row in range(model.rowCount(QModelIndex())):
                for column in range(20):
                    index = model.index(row, column)
                    if index.isValid():
                        yield index.data(Qt.ItemDataRole.ToolTipRole)


def test_nothing_from_outside_is_drawn_as_markup(opened, hostile_path, qtbot):
    window = opened(hostile_path)
    qtbot.waitUntil(lambda: window.desk.job is not None and window.desk.busy == 0)
    show, seen = window.panels, 0
    for panel in (show.show_look_up, show.show_grades, show.show_stopwatch, show.show_card):
        panel()
    for lens in LensName:
        window.right.show_lens(lens)
        qtbot.waitUntil(lambda: window.desk.busy == 0)
        QApplication.processEvents()
        for label in window.findChildren(QLabel):
            if "img" in label.text():
                seen += 1
                assert not TAMED.search(label.text())
                assert label.textFormat() is not Qt.TextFormat.AutoText, label.text()
                if label.textFormat() is Qt.TextFormat.RichText:
                    assert "<img" not in label.text()
        for text in tips(window):
            if text and "img" in text:
                seen += 1
                assert "<img" not in text
                assert not TAMED.search(text)
    assert seen > 8


def test_nothing_from_outside_commands_the_terminal(hostile_path):
    for words in ("jobs", "book 0001", "entries 0001", "load 0001", "compare 0001", "undo 0001"):
        for json in ([], ["--json"]) if not words.startswith("undo") else ([],):
            done = run(*words.split(), "--ledger", hostile_path, *json)
            assert done.exception is None or isinstance(done.exception, SystemExit), words
            assert not TAMED.search(done.output), words
    assert "[/b]" in run("jobs", "--ledger", hostile_path).output


def sources(folder):
    root = Path(plucky_ledger.__file__).parent / folder
    return {path: ast.parse(path.read_text()) for path in root.rglob("*.py")}


def calls(tree):
    return [node for node in ast.walk(tree) if isinstance(node, ast.Call)]


def test_every_label_and_tip_goes_through_the_one_place():
    """A label made directly would guess whether its text is markup; so would a bare tip."""
    for path, tree in sources("ui").items():
        if path.name == "text.py":
            continue
        for call in calls(tree):
            name = ast.unparse(call.func)
            assert name not in {"QLabel", "QtWidgets.QLabel", "QMessageBox"}, path
            if name.endswith(("setToolTip", "setWhatsThis")):
                assert ast.unparse(call.args[0]).startswith("tip("), path


def test_every_printed_line_goes_through_the_one_place():
    quick = {"record.py", "administer.py"}  # what they write is JSON, or comes from wording
    for path, tree in sources("cli").items():
        if path.name in {"output.py", "answers.py", *quick}:
            continue
        for call in calls(tree):
            name = ast.unparse(call.func)
            assert name not in {"print", "click.secho", "Console"}, path
            assert name != "click.echo" or "maker.source" in ast.unparse(call), path
    assert main.name == "main"
