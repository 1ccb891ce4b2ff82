"""Killed at any moment: nothing that was acknowledged is lost, and everything goes on.

python -m tests.endurance.kills [KILLS [SEED]]
"""

import os
import select
import signal
import sys
import tempfile
import time
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from random import Random

from plucky_ledger.capture import administrator
from plucky_ledger.capture.arming import arm, armed, count_down
from plucky_ledger.capture.recorder import BootClock, Pace, record
from plucky_ledger.capture.starters import Arming, starter_of
from plucky_ledger.capture.this_pc import ThisPc
from plucky_ledger.core.book.job import Card
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.measures import Measure, Reading
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.steps import StepCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.recording.lines import SampleLine
from plucky_ledger.recording.reader import read_recording
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.store.boots import add_boot, count_recordings
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs import read_job, read_jobs, take_in

LARGEST_SAVE = 4_000_000
KILLS_A_LEDGER = 20
WHEN = datetime(2026, 11, 2, 9, 0, tzinfo=UTC)


@contextmanager
def killed(work, after_seconds):
    """Run ``work`` in a process of its own, kill it outright; yields how often it acknowledged."""
    ours, theirs = os.pipe()
    process = os.fork()
    if process == 0:
        os.close(ours)
        try:
            work(lambda: os.write(theirs, b"."))
        finally:
            os._exit(1)
    os.close(theirs)
    acknowledged = b""
    deadline = time.monotonic() + after_seconds
    while (left := deadline - time.monotonic()) > 0:
        if select.select([ours], [], [], left)[0]:
            acknowledged += os.read(ours, 4096)
    os.kill(process, signal.SIGKILL)
    os.waitpid(process, 0)
    while more := os.read(ours, 4096):
        acknowledged += more
    os.close(ours)
    yield len(acknowledged)


def kill_a_ledgers_writer(folder, random, kills):
    """Large saves: boots with recordings of some megabytes."""
    at_work = 0
    for kill in range(kills):
        if kill % KILLS_A_LEDGER == 0:
            path = folder / f"{kill}.ledger"
            with Ledger(path) as ledger:
                number = take_in(ledger, Card("", "PC"), Facts())
            before = 0
        boot = Boot(0, WHEN, How.TYPED, {}, {Measure.SETTLED: Reading(61.5)})

        def save(acknowledge, path=path, number=number, boot=boot):
            with Ledger(path) as ledger:
                for size in iter(lambda: random.randrange(LARGEST_SAVE), None):
                    with step(ledger, StepCode.ADD_BOOT, number, how=How.TYPED) as session:
                        data = os.urandom(size)
                        add_boot(session, number, None, boot, str(os.urandom(4)), data)
                    acknowledge()

        with killed(save, random.uniform(0.0, 0.3)) as acknowledged:
            journal = path.with_name(f"{path.name}-journal")
            at_work += journal.exists() and journal.stat().st_size > 0
        with Ledger(path) as ledger:
            assert ledger.read_only_because is None
            boots = len(read_job(ledger, number).opening_boots)
            assert before + acknowledged <= boots <= before + acknowledged + 1
            with ledger.session() as session:
                assert count_recordings(session) == boots
            assert len(read_jobs(ledger)) == 1
            before = boots
    return f"{at_work} of them in the middle of a save"


def kill_a_recorder(folder, random, kills):
    """It records this PC ten times a second."""
    kept = 0
    for kill in range(kills):
        path = folder / f"{kill}.jsonl.gz"

        def work(acknowledge, path=path):
            def heard(lines):
                if any(isinstance(line, SampleLine) for line in lines):
                    acknowledge()

            with RecordingWriter(path) as writer:
                record(ThisPc(), BootClock(), writer, 60.0, Pace(0.02, 0.02), heard)

        with killed(work, random.uniform(0.0, 0.4)) as acknowledged:
            pass
        if acknowledged:
            with path.open("rb") as file:
                back = read_recording(file)
            assert len(back.samples) >= acknowledged
            assert back.damage is None
            kept += acknowledged
        path.unlink(missing_ok=True)
    return f"{kept} samples acknowledged, all kept"


def kill_an_arming(folder, random, kills):
    """Arm, count down, disarm, over and over, at every level."""
    folders = Folders(folder / "config", (), folder / "system", folder / "own")
    recordings = folder / "recordings"
    recordings.mkdir()
    arming = Arming(2, str(recordings), os.geteuid(), "0417", id="this one")
    whole = 0
    for _ in range(kills):
        level = random.choice(list(Level))

        def work(acknowledge, level=level):
            while True:
                arm(arming, level, folders)
                acknowledge()
                while count_down(starter_of(level, folders), arming.id):
                    pass

        with killed(work, random.uniform(0.0, 0.25)):
            pass
        there = armed(folders)
        whole += len(there)
        for one in there:
            assert one.arming.boots_left in {1, 2}
            assert one.arming.folder == str(recordings)
        administrator.disarm_everything(folders)
        left = [path for path in folder.rglob("*") if not path.is_dir()]
        assert left == [], left
        arm(arming, level, folders)
        assert armed(folders)
        administrator.disarm_everything(folders)
    return f"{whole} of them while it was armed"


VICTIMS = {
    "a ledger's writer": kill_a_ledgers_writer,
    "a recorder": kill_a_recorder,
    "an arming": kill_an_arming,
}


def main(kills=500, first_seed=0):
    """Kill each of them so often."""
    for name, kill in VICTIMS.items():
        with tempfile.TemporaryDirectory(prefix="plucky-ledger-kills-") as folder:
            said = kill(Path(folder), Random(first_seed), kills)
        sys.stdout.write(f"{name}: {kills} kills, nothing lost; {said}\n")
        sys.stdout.flush()
    return 0


if __name__ == "__main__":
    sys.exit(main(*map(int, sys.argv[1:])))
