"""Captures of a real PC booting, brought through the recorder's own parsers to analyses.

A capture is a folder with the texts of /proc once a second (samples.jsonl.gz), what the service
managers said of themselves and their units, and the desktop entries that were there.
"""

import gzip
import json
import tempfile
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

from plucky_ledger.capture.sampling.counters import (
    cpu_seconds,
    disk_counters,
    memory_bytes,
    threads_at_work,
)
from plucky_ledger.capture.sampling.pressure import pressure_seconds
from plucky_ledger.capture.sampling.programs import ProgramSampler
from plucky_ledger.capture.services.autostart import autostart_entries
from plucky_ledger.capture.services.units import boot_lines, unit_lines
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.recording.lines import Header, Line, MarkLine, PcFacts, SampleLine
from plucky_ledger.recording.writer import RecordingWriter

DRIVE = frozenset({b"vda"})
SET_ASIDE = frozenset({"lab-sampler", "python3"})
"""The program that took the samples."""
SIGN_IN = "getty@tty1.service"


def captured_boot(folder: Path) -> Analysis:
    """One captured boot, analysed as a recorded one."""
    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "boot.jsonl"
        with RecordingWriter(path) as writer:
            writer.write(_lines(folder, Path(name)))
            writer.finish("time_was_up")
        recorded = boot_from_bytes(path.read_bytes())
    plain = Analysis(recorded.boot, recorded.timeline, SET_ASIDE)
    return Analysis(replace(recorded.boot, readings=plain.readings), recorded.timeline, SET_ASIDE)


def _lines(folder: Path, at: Path) -> Iterator[Line]:
    machine = json.loads((folder / "machine.json").read_text())
    facts = PcFacts(
        kernel=machine["kernel"],
        cores=machine["cpu_count"],
        memory_bytes=machine["mem_total_kib"] * 1024,
    )
    started = "2026-11-20T10:00:10+00:00"
    yield Header(
        "plucky-ledger-recording", 1, "played back", machine["boot_id"], started, "", facts
    )
    proc = at / "proc"
    (proc / "self").mkdir(parents=True)
    sampler = ProgramSampler(proc)
    with gzip.open(folder / "samples.jsonl.gz", "rt") as file:
        for line in file:
            texts = json.loads(line)
            _lay_out(proc, texts["pids"])
            yield from sampler.sample(round(texts["boottime"], 3))
            yield _sample(texts, machine["clock_ticks"])
    sampler.close()
    yield MarkLine("kernel started", 0.0)
    manager = _properties(json.loads((folder / "manager.json").read_text()))
    yield from boot_lines(manager)
    units = _units(folder / "units.json.gz")
    yield from unit_lines(units, manager, "system")
    of_user = _properties(json.loads((folder / "manager-user.json").read_text()))
    users = _units(folder / "units-user.json.gz")
    yield from unit_lines(users, of_user, "user")
    folders = sorted((folder / "autostart").iterdir(), reverse=True)
    yield from autostart_entries(folders, ("TicketDesk",))
    # The session was opened by itself: the user's manager starts with it.
    started_at = next(u for u in units if u["Id"] == "user@1000.service")
    yield MarkLine("signed in", started_at["InactiveExitTimestampMonotonic"] / 1e6)
    shown = next(u for u in users if u["Id"] == "graphical-session.target")
    yield MarkLine("desktop shown", shown["ActiveEnterTimestampMonotonic"] / 1e6)


def _lay_out(proc: Path, pids: dict[str, dict[str, str]]) -> None:
    """Make the folder what /proc was at that instant."""
    for gone in proc.glob("[0-9]*"):
        if gone.name not in pids:
            for file in gone.iterdir():
                file.unlink()
            gone.rmdir()
    for pid, files in pids.items():
        folder = proc / pid
        folder.mkdir(exist_ok=True)
        for name, text in files.items():
            if text is not None:
                (folder / name).write_text(text)


def _sample(texts: dict, ticks: int) -> SampleLine:
    stat = texts["stat"].encode()
    disk = disk_counters(texts["diskstats"].encode(), DRIVE)
    runnable, blocked = threads_at_work(stat)
    return SampleLine(
        seconds=round(texts["boottime"], 3),
        cpu_seconds=cpu_seconds(stat, ticks),
        disk_read_bytes=disk.bytes_read,
        disk_written_bytes=disk.bytes_written,
        disk_busy_seconds=disk.busy_seconds,
        memory_held_bytes=memory_bytes(texts["meminfo"].encode())[1],
        processes=texts["nprocs"],
        runnable=runnable,
        blocked=blocked,
        disk_requests=disk.requests,
        disk_answer_seconds=disk.answer_seconds,
        **{
            f"{of}_pressure_seconds": pressure_seconds(texts[f"pressure/{of}"].encode())
            for of in ("cpu", "io", "memory")
        },
    )


def _properties(captured: dict) -> dict:
    return {name: value["data"] for name, value in captured.items()}


def _units(path: Path) -> list[dict]:
    with gzip.open(path, "rt") as file:
        return [_properties(unit["properties"]) for unit in json.load(file)]
