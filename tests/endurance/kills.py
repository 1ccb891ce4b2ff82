"""Killed at any moment: nothing that was acknowledged is lost, and everything goes on.

python -m tests.endurance.kills [KILLS [SEED]]
"""

import os
import select
import shutil
import signal
import sqlite3
import sys
import tempfile
import time
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path
from random import Random

from plucky_ledger.capture import administrator
from plucky_ledger.capture.arming.arming import arm, armed, count_down
from plucky_ledger.capture.arming.starters import Arming, starter_of
from plucky_ledger.capture.sampling.recorder import BootClock, Pace, record
from plucky_ledger.capture.sampling.this_pc import ThisPc
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import EntryRequest
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.recording.lines import SampleLine
from plucky_ledger.recording.reader import read_recording
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.store.boots import add_boot, count_recordings
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.jobs import read_job, read_jobs, take_in
from plucky_ledger.usecases.jobs.opening import repair
from plucky_ledger.usecases.jobs.undo import redo, undo
from tests.endurance.benches import (
    disturb_the_network,
    kill_a_bench,
    kill_a_server,
    kill_who_brings_home,
)
from tests.helpers.server import programs

LARGEST_SAVE = 4_000_000
KILLS_A_LEDGER = 20
MOST_CHANGES_KEPT = 300
"""Of a journal, which is begun anew then: reading it is not what is looked at."""
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
        boot = Boot(
            number=0,
            started_at=WHEN,
            how=How.TYPED,
            marks={},
            readings={Measure.SETTLED: Reading(61.5)},
        )

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


class NoManager:
    """There is no service manager to be told."""

    owner = "user"

    def reload(self):
        pass


def kill_a_posting(folder, random, kills):
    """Sign-in programs switched and put back, over and over: in the end every byte is as it was."""
    vendors, own = folder / "vendors", folder / "home/.config"
    names = [f"{name}.desktop" for name in ("bell", "horn", "tide", "till")]
    for place in (vendors, own):
        (place / "autostart").mkdir(parents=True)
    for name in names:
        text = f"# {name}\n[Desktop Entry]\nType=Application\nExec=/bin/true %U\nName={name}\n"
        (vendors / "autostart" / name).write_text(text)
    (own / "autostart" / names[0]).write_text("[Desktop Entry]\nType=Application\nExec=/bin/false")
    (own / "autostart" / names[0]).chmod(0o640)
    place = Scope("user", Folders(own, (vendors,), state=folder / "state"), NoManager())
    before, cut = _tree(folder / "home"), 0
    for _ in range(kills):

        def work(acknowledge):
            while True:
                states = (EntryState.OFF, EntryState.LATER)
                wishes = tuple(EntryRequest(name, name, random.choice(states)) for name in names)
                place.switch(SwitchRequest(str(random.random()), "0417", "bench", wishes))
                acknowledge()
                place.put_back(RevertSelection())
                acknowledge()

        with killed(work, random.uniform(0.0, 0.15)):
            pass
        cut += any(change.cut_off for change in place.changes())
        place.put_back(RevertSelection(cut_off=True))
        assert not any(change.cut_off for change in place.changes())
        assert place.left_out() == []
        place.put_back(RevertSelection())
        assert _tree(folder / "home") == before
        if len(place.changes()) > MOST_CHANGES_KEPT:
            shutil.rmtree(folder / "state")
    return f"{cut} of them in the middle of a change"


def _tree(folder):
    return {
        path: (path.lstat().st_mode, path.read_bytes() if path.is_file() else None)
        for path in folder.rglob("*")
    }


def kill_a_repair(folder, random, kills):
    """A damaged ledger is copied as far as it can be read: whole, or not at all."""
    damaged = folder / "damaged.ledger"
    with Ledger(damaged) as ledger:
        number = take_in(ledger, Card("", "PC"), Facts())
        for at in range(6):
            boot = Boot(
                number=0,
                started_at=WHEN,
                how=How.TYPED,
                marks={},
                readings={Measure.SETTLED: Reading(61.5)},
            )
            with step(ledger, StepCode.ADD_BOOT, number, how=How.TYPED) as session:
                add_boot(session, number, None, boot, str(at), os.urandom(50_000))
    with closing(sqlite3.connect(damaged)) as connection:
        connection.execute("UPDATE boots SET readings = '[]' WHERE number = 5")
        connection.commit()
    bytes_before, whole = damaged.read_bytes(), 0
    for kill in range(kills):
        copy = folder / f"{kill}.ledger"

        def work(acknowledge, copy=copy):
            for number in range(100):
                repair(damaged, copy.with_name(f"{copy.name}.{number}"))
                acknowledge()

        with killed(work, random.uniform(0.0, 1.2)) as acknowledged:
            pass
        made = sorted(folder.glob(f"{copy.name}.*"))
        assert acknowledged <= len([path for path in made if path.suffix[1:].isdecimal()])
        for path in made:
            if path.suffix[1:].isdecimal():
                with Ledger(path) as ledger:
                    assert sum(len(job.boots) for job in read_jobs(ledger)) == 5
                whole += 1
            path.unlink()
        assert damaged.read_bytes() == bytes_before
    return f"{whole} copies, all whole"


def kill_an_undo(folder, random, kills):
    """Steps undone and done again, over and over: each whole, or not at all."""
    path = folder / "undo.ledger"
    with Ledger(path) as ledger:
        number = take_in(ledger, Card("", "PC"), Facts())
        for at in range(12):
            boot = Boot(
                number=0,
                started_at=WHEN,
                how=How.TYPED,
                marks={},
                readings={Measure.SETTLED: Reading(60.0 + at)},
            )
            with step(ledger, StepCode.ADD_BOOT, number, how=How.TYPED) as session:
                add_boot(session, number, None, boot, str(at), os.urandom(1000))
    steps = 0
    for _ in range(kills):
        with Ledger(path) as ledger:
            before = len(read_job(ledger, number).boots)

        def work(acknowledge):
            with Ledger(path) as ledger:
                while True:
                    for _ in range(8):
                        undo(ledger, number)
                        acknowledge()
                    for _ in range(8):
                        redo(ledger, number)
                        acknowledge()

        with killed(work, random.uniform(0.1, 0.5)) as acknowledged:
            pass
        steps += acknowledged
        with Ledger(path) as ledger:
            left = [
                reading.readings[Measure.SETTLED].value
                for reading in read_job(ledger, number).boots
            ]
            assert left == [60.0 + at for at in range(len(left))]
            expected = {before + _undone(acknowledged + more) for more in (0, 1)}
            assert len(left) in expected, (before, acknowledged, left)
            while redo(ledger, number) is not None:
                pass
            assert len(read_job(ledger, number).boots) == 12
    return f"{steps} steps acknowledged"


def _undone(steps):
    """How many boots fewer there are after so many steps, eight back and eight forth."""
    there = steps % 16
    return -there if there <= 8 else there - 16


ON_A_SERVER = {
    "a bench": kill_a_bench,
    "a server": kill_a_server,
    "a network": disturb_the_network,
    "who brings home": kill_who_brings_home,
}
VICTIMS = {
    "a ledger's writer": kill_a_ledgers_writer,
    "a recorder": kill_a_recorder,
    "an arming": kill_an_arming,
    "a posting": kill_a_posting,
    "a repair": kill_a_repair,
    "an undo": kill_an_undo,
    **(ON_A_SERVER if programs() is not None else {}),
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
