"""Recordings that come on a stick, each into the book of its PC, once."""

import gzip
import json
import os
import re
import shutil
from datetime import UTC, datetime
from pathlib import Path

import pytest
from click.testing import CliRunner

from plucky_ledger.cli.main import main
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.linux import notifications
from plucky_ledger.stick.kept import ABOUT, ON_THE_STICK
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.recording import sticks
from plucky_ledger.usecases.recording.boots import add_typed
from plucky_ledger.usecases.recording.sticks import Known, look, on_a_stick, take_in_from
from plucky_ledger.wording.sticks import on_the_stick, taken_in

BOOTS = Path(__file__).parents[1] / "data/real-boot"
FIRST, SECOND = "baseline-01.jsonl.gz", "baseline-02.jsonl.gz"
THIRD = "without-import-01.jsonl.gz"
FOURTH, FIFTH = "slow-drive.jsonl.gz", "starved.jsonl.gz"
HERE, THERE = "a" * 32, "b" * 32
LONG_AGO = 1_700_000_000


def put(stick, machine, *recordings, name="ticketdesk"):
    """A PC's folder on a stick, as the stick's own program leaves it."""
    folder = stick / ON_THE_STICK / f"{name}-{machine[:8]}"
    folder.mkdir(parents=True, exist_ok=True)
    (folder / ABOUT).write_text(json.dumps({"machine": machine, "name": name}))
    for recording in recordings:
        shutil.copy(BOOTS / recording, folder / f"boot-{recording}")
        os.utime(folder / f"boot-{recording}", (LONG_AGO, LONG_AGO))
    return folder


def everything(folder):
    return {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}


def test_each_pc_into_its_own_book_and_nothing_twice(ledger, tmp_path):
    number = take_in(ledger, Card("", "Ticket-desk PC"), Facts(), WhichPc(PcKind.REAL, HERE))
    put(tmp_path, HERE, FIRST)
    put(tmp_path, THERE, SECOND, name="quay")
    before, known = everything(tmp_path / ON_THE_STICK), Known()
    found = look(ledger, on_a_stick(tmp_path), known)
    assert [(pc.title or pc.name, pc.job, len(pc.new)) for pc in found] == [
        ("quay", None, 1),
        ("Ticket-desk PC", number, 1),
    ]
    assert "quay (1, no job yet) and Ticket-desk PC (1)" in on_the_stick(found, "Ctrl+K")
    outcome = take_in_from(ledger, found)
    assert [(one.title, one.begun, one.boots) for one in outcome] == [
        ("quay", True, 1),
        ("Ticket-desk PC", False, 1),
    ]
    told = taken_in(outcome)
    assert "1 boot in a new job: quay." in told
    assert "1 boot in the book of Ticket-desk PC." in told
    assert len(read_job(ledger, number).boots) == 1
    assert look(ledger, on_a_stick(tmp_path), known) == ()
    assert look(ledger, on_a_stick(tmp_path), Known()) == ()
    assert everything(tmp_path / ON_THE_STICK) == before
    folder = put(tmp_path, HERE, SECOND)  # the same boot as of another PC is new to this one
    (again,) = look(ledger, on_a_stick(tmp_path), known)
    assert again.new == (folder / f"boot-{SECOND}",)


def test_a_pc_that_got_slower_is_told_once_and_on_the_desktop(ledger, tmp_path, monkeypatch):
    """Four boots of half a minute come after ten that took a fourth of that."""
    number = take_in(ledger, Card("", "Quay PC"), Facts(), WhichPc(PcKind.REAL, HERE))
    for boot in range(10):
        began = datetime(2026, 1, 5 + boot, 8, tzinfo=UTC)
        add_typed(ledger, number, {Measure.SETTLED: 7.0 + boot % 3 / 5}, began)
    put(tmp_path, HERE, FIRST, SECOND, FOURTH, FIFTH)
    shown = []
    monkeypatch.setattr(notifications, "notify", lambda text, user: shown.append((text, user)))
    where = ledger.address.text
    ledger.close()

    def imported():
        command = ["import", "--drop", str(tmp_path), "--notify", "--ledger", where]
        return CliRunner().invoke(main, command)

    told = imported()
    (sentence,) = [text for text, user in shown if user == os.geteuid()]
    assert re.fullmatch(r"Quay PC is \d+\.\d s slower since \d+ \w+\.", sentence)
    assert sentence in told.output
    put(tmp_path, HERE, THIRD)
    assert "slower" not in imported().output
    assert len(shown) == 1


def test_hostile_sticks_are_passed_over(ledger, tmp_path, monkeypatch):
    folder = put(tmp_path, HERE, FIRST)
    (folder / "boot-x.jsonl.gz").write_bytes(gzip.compress(b"\0" * 10_000_000))
    (folder / "boot-y.jsonl").write_bytes(b'{"kind":"header"}\n')
    (folder / "boot-z.jsonl.gz").symlink_to("/dev/zero")
    os.mkfifo(folder / "boot-pipe.jsonl")
    for odd in (b"", b"[" * 100_000, b"\xff", b'{"machine":7}'):
        beside = tmp_path / ON_THE_STICK / f"odd-{len(odd)}"
        beside.mkdir()
        (beside / ABOUT).write_bytes(odd)
    for path in folder.glob("*.jsonl*"):
        os.utime(path, (LONG_AGO, LONG_AGO), follow_symlinks=False)
    (found,) = look(ledger, on_a_stick(tmp_path), Known())
    assert [path.name for path in found.new] == [f"boot-{FIRST}"]
    monkeypatch.setattr(sticks, "mounted_below", lambda: [tmp_path, tmp_path / "gone"])
    assert next(sticks.stick_folders(str(tmp_path / "nowhere"))) == tmp_path / ON_THE_STICK


def test_what_is_still_on_its_way_is_not_new_yet(ledger, tmp_path):
    folder = put(tmp_path, HERE, FIRST)
    os.utime(folder / f"boot-{FIRST}")
    assert look(ledger, on_a_stick(tmp_path), Known()) == ()


def test_what_is_no_recording_after_all_is_told(ledger, tmp_path):
    folder = put(tmp_path, HERE, FIRST, SECOND)
    pcs = look(ledger, on_a_stick(tmp_path), Known())
    (folder / f"boot-{FIRST}").write_bytes(b"something else by now")
    (outcome,) = take_in_from(ledger, pcs)
    assert (outcome.boots, outcome.begun) == (1, True)
    assert FIRST in taken_in([outcome])


@pytest.mark.parametrize("machine", ["", HERE])
def test_a_pc_that_nothing_tells_from_others_has_a_job_of_its_own(ledger, tmp_path, machine):
    other = take_in(ledger, Card("", "Other"), Facts(), WhichPc(PcKind.REAL, machine))
    put(tmp_path, machine, FIRST)
    (found,) = look(ledger, on_a_stick(tmp_path), Known())
    assert found.job == (other if machine else None)
    take_in_from(ledger, [found])
    assert look(ledger, on_a_stick(tmp_path), Known()) == ()
