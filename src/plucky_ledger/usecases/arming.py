"""Arming the recorder for the next boots, and picking up what it recorded."""

import os
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.capture import arming
from plucky_ledger.capture.arming import Level, NotArmed, Places
from plucky_ledger.capture.this_pc import boot_id
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.boots import import_recording, read_recording_file
from plucky_ledger.usecases.jobs import Refused
from plucky_ledger.wording.figures import count

ENDING = ".jsonl.gz"


def armed_folder(ledger_path: Path, job: int) -> Path:
    """Where the armed recordings of a job lie until they are in its book."""
    return ledger_path.parent / "recordings" / f"armed-{job}"


def places() -> Places:
    """Where this PC keeps what starts by itself."""
    return Places.of(os.environ, Path.home())


def arm(folder: Path, boots: int, level: Level, at: Places | None = None) -> str:
    """Arm the recorder; returns what to say.

    Raises:
        Refused: it could not be; nothing was left behind.
    """
    try:
        arming.arm(folder, boots, level, at or places())
    except NotArmed as reason:
        raise Refused(str(reason)) from reason
    return (
        f"Armed for {count(boots, 'boot')}. Restart the PC; the recordings come into the book by "
        "themselves when this window is open again."
    )


def disarm(folder: Path) -> str:
    """Remove every trace of an arming; returns what to say. Raises Refused."""
    try:
        gone = arming.disarm(folder)
    except NotArmed as reason:
        raise Refused(str(reason)) from reason
    return "Disarmed; every trace is removed." if gone else "It was not armed."


@dataclass(frozen=True)
class ArmedState:
    """What there is to say about an arming."""

    boots_left: int
    waiting: tuple[Path, ...]
    """Finished recordings that are not in the book yet."""

    @property
    def told(self) -> str:
        """One sentence; empty when it is not armed."""
        return f"Armed for {count(self.boots_left, 'more boot')}." if self.boots_left else ""


def armed_state(folder: Path) -> ArmedState:
    """Whether it is armed, and what it has recorded."""
    found = arming.read_arming(folder)
    try:
        waiting = sorted(path for path in folder.iterdir() if path.name.endswith(ENDING))
    except OSError:
        waiting = []
    return ArmedState(found.boots_left if found else 0, tuple(waiting))


def pick_up(ledger: Ledger, job: int) -> list[str]:
    """Take finished armed recordings into the book; returns a sentence for each.

    One that is still being written has no end record yet and is left for later; so is one that is
    no recording, which is named.
    """
    told = []
    for path in armed_state(armed_folder(ledger.path, job)).waiting:
        try:
            if _being_written(path):
                continue
            told.append(import_recording(ledger, stored.job(ledger, job), path).told)
            path.unlink()
        except Refused as refusal:
            told.append(str(refusal))
    return told


def _being_written(path: Path) -> bool:
    """Whether it belongs to this boot and its recorder may still be at work."""
    recorded, _ = read_recording_file(path)
    return recorded.boot.cut_short and recorded.boot_id == boot_id()
