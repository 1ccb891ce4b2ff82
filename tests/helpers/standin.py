"""Boots of the stand-in PC, recorded in memory through the real recorder."""

from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from plucky_ledger.capture.sampling.recorder import record
from plucky_ledger.exchange.boots import RecordedBoot, boot_from_bytes
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup
from plucky_ledger.standin.museum import TICKET_DESK

BEGIN = datetime(2026, 11, 3, 9, 0, tzinfo=UTC)


def restarted(seed: int, setup: Setup = Setup(), seconds: float = 110.0):  # noqa: B008
    """A recorded boot, and when the simulation itself says that startup work ended."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "boot.jsonl.gz"
        truth = record_to(path, seed, setup, seconds)
        return boot_from_bytes(path.read_bytes()), truth


def record_to(path: Path, seed: int, setup: Setup = Setup(), seconds: float = 110.0) -> float:  # noqa: B008
    """Record a boot to a file; returns when startup work ended."""
    boot = TICKET_DESK.restart(setup, seed, BEGIN)
    with RecordingWriter(path) as writer:
        record(boot, boot, writer, seconds)
    return boot.run.machine.last_startup_work


def recorded(seed: int, setup: Setup = Setup()) -> RecordedBoot:  # noqa: B008
    """A recorded boot."""
    return restarted(seed, setup)[0]
