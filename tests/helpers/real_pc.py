"""A captured boot of a real PC, played back through the parsers the recorder uses."""

import gzip
import json
from pathlib import Path

from plucky_ledger.capture.sampling.counters import (
    cpu_seconds,
    disk_counters,
    memory_bytes,
    threads_at_work,
)
from plucky_ledger.capture.services.units import boot_lines
from plucky_ledger.recording.lines import Header, MarkLine, PcFacts, SampleLine

FOLDER = Path(__file__).parent.parent / "data" / "real-boot"


class PlayedBack:
    """Source and clock in one: gives the captured texts at the captured instants."""

    def __init__(self) -> None:
        with gzip.open(FOLDER / "samples.jsonl.gz", "rt") as file:
            self._captured = [json.loads(line) for line in file]
        self._machine = json.loads((FOLDER / "machine.json").read_text())
        self._at = 0

    def now(self) -> float:
        return float(self._captured[self._at]["boottime"])

    def may_ask(self):
        return True

    def sleep_until(self, _instant: float) -> bool:
        self._at += 1
        return self._at < len(self._captured) - 1

    def header(self) -> Header:
        facts = PcFacts(
            kernel=self._machine["kernel"],
            cores=self._machine["cpu_count"],
            memory_bytes=self._machine["mem_total_kib"] * 1024,
        )
        return Header(
            "plucky-ledger-recording",
            1,
            "played back",
            self._machine["boot_id"],
            "2026-11-20T10:00:10+00:00",
            "UTC",
            facts,
        )

    def opening_lines(self):
        return []

    def sample(self):
        texts = self._captured[self._at]
        disk = disk_counters(texts["diskstats"].encode(), frozenset({b"vda"}))
        return [
            SampleLine(
                seconds=self.now(),
                cpu_seconds=cpu_seconds(texts["stat"].encode(), self._machine["clock_ticks"]),
                runnable=threads_at_work(texts["stat"].encode())[0],
                blocked=threads_at_work(texts["stat"].encode())[1],
                disk_read_bytes=disk.bytes_read,
                disk_written_bytes=disk.bytes_written,
                disk_busy_seconds=disk.busy_seconds,
                memory_held_bytes=memory_bytes(texts["meminfo"].encode())[1],
                processes=texts["nprocs"],
            )
        ]

    def closing_lines(self, _going_on):
        manager = json.loads((FOLDER / "manager.json").read_text())
        properties = {name: value["data"] for name, value in manager.items()}
        return [MarkLine("kernel started", 0.0), *boot_lines(properties)]
