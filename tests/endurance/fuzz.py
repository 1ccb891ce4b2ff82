"""Odd input for everything that reads what others wrote: it is read, or refused with a sentence.

    python -m tests.endurance.fuzz [INPUTS [SEED]]

Prints how many inputs each reader stood, its faults and its peak memory.
"""

import gzip
import io
import json
import logging
import multiprocessing
import os
import resource
import shutil
import sqlite3
import sys
import tempfile
import time
from contextlib import closing
from functools import cache
from pathlib import Path

import msgspec
import zstandard
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from plucky_ledger.capture.arming.starters import Arming, users_starter
from plucky_ledger.capture.hardware import survey as surveyed
from plucky_ledger.capture.log.system_log import STARTUP_FINISHED, boots_from, kind_of_end
from plucky_ledger.capture.services.inventory import rules_of
from plucky_ledger.capture.services.units import boot_lines, unit_lines
from plucky_ledger.control import administrator as of_control
from plucky_ledger.control.journal_of_changes import ChangeStage, EntryChange, RecordedChange
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope
from plucky_ledger.control.writes import NOTHING, File, FileWrite, Folder, Link
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import EntryRequest
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.room import Survey
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.exchange.boots import boot_from
from plucky_ledger.linux.desktop_entries import read_desktop_entry
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.properties import TYPES
from plucky_ledger.night import administrator as of_night
from plucky_ledger.night.administrator import Beginning
from plucky_ledger.night.plan import Booted, NightPlan
from plucky_ledger.night.plan_file import LARGEST_BYTES as LARGEST_PLAN
from plucky_ledger.night.plan_file import keep_plan, plan_path, read_plan, take_room
from plucky_ledger.recording.reader import read_recording
from plucky_ledger.store.boots import add_boot
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.jobs.opening import open_as_far_as_readable
from plucky_ledger.usecases.jobs.shelf import read_shelf
from plucky_ledger.wording.trouble import trouble_in_words
from tests.helpers.standin import record_to

ROUND = 1_000
"""Examples in one run of the generator, which remembers all of them."""
PLACES = 20
"""Where in a file the same damage is done, one after the other."""
LARGEST_MEMORY_BYTES = 300_000_000
anything = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=9),
    lambda inner: (
        st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=4), inner, max_size=3)
    ),
    max_leaves=6,
)
edits = st.lists(
    st.tuples(st.floats(0, 1, exclude_max=True), st.integers(0, 9), st.binary(max_size=6)),
    min_size=1,
    max_size=4,
)


def edited(data, changes):
    """Bytes with some cut out and others put in."""
    for share, cut, put in changes:
        at = int(share * len(data))
        data = data[:at] + put + data[at + cut :]
    return data


@cache
def recording():
    """The beginning of a recording, and some of its end."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "boot.jsonl"
        record_to(path, seed=3, seconds=30.0)
        lines = path.read_bytes().splitlines(keepends=True)
    return b"".join(lines[:30] + lines[-12:])


PACKERS = (lambda data: data, gzip.compress, zstandard.ZstdCompressor().compress)
damaged = st.tuples(st.sampled_from(PACKERS), edits, edits)


def read_damaged(value):
    """The same damage at many places."""
    pack, before, after = value
    for place in range(PLACES):
        moved = [((share + place / PLACES) % 1, cut, put) for share, cut, put in after]
        _read(edited(pack(edited(recording(), before)), moved), whole=place == 0)
    return PLACES


def _read(data, whole=True):
    try:
        read = read_recording(io.BytesIO(data))
        if whole:
            boot_from(read)
    except Trouble as trouble:
        trouble_in_words(trouble)


odd_lines = st.lists(st.tuples(st.integers(0, 999), anything), min_size=1, max_size=6)


def read_odd_lines(changes):
    """A line that is JSON, with values that should not be there, in the place of each line."""
    lines = recording().splitlines()
    for at in range(len(lines)):
        line = json.loads(lines[at])
        names = sorted(line)
        for name, value in changes:
            line[names[name % len(names)]] = value
        odd = [*lines[:at], msgspec.json.encode(line), *lines[at + 1 :]]
        _read(b"\n".join(odd) + b"\n", whole=at % 8 == 0)
    return len(lines)


messages = st.lists(
    st.dictionaries(
        st.sampled_from(
            [
                "MESSAGE_ID",
                "UNIT",
                "_BOOT_ID",
                "_PID",
                "_EXE",
                "KERNEL_USEC",
                "JOB_RESULT",
                "USERSPACE_USEC",
                "__MONOTONIC_TIMESTAMP",
                "__REALTIME_TIMESTAMP",
            ]
        ),
        anything | st.sampled_from([STARTUP_FINISHED, "1", "reboot.target", "9" * 18, "a.service"]),
    ),
    max_size=30,
)


def read_journal(entries):
    lines = [msgspec.json.encode(entry) for entry in entries]
    for boot in boots_from(lines):
        boot_from(read_recording(io.BytesIO(boot.as_recording())))
    kind_of_end(lines)
    return len(lines)


values = {
    "s": st.text(max_size=20),
    "as": st.lists(st.text(max_size=9), max_size=4),
    "t": st.integers(0, 2**64 - 1),
    "u": st.integers(0, 2**32 - 1),
    "b": st.booleans(),
    "a(sasbttttuii)": st.lists(st.tuples(st.text(), st.lists(st.text(), max_size=3)), max_size=2),
    "(so)": st.tuples(st.text(), st.text()),
    "a(sst)": st.lists(st.tuples(st.text(), st.text(), st.integers(0, 2**64 - 1)), max_size=2),
    "a(stt)": st.lists(
        st.tuples(st.sampled_from(["OnBootUSec", "x"]), *[st.integers(0, 2**64 - 1)] * 2),
        max_size=2,
    ),
}
properties = st.fixed_dictionaries(
    {}, optional={name: values[kind] for name, kind in TYPES.items()}
)
managers = st.tuples(st.lists(properties, max_size=20), properties)


def read_units(value):
    """Properties as the bus hands them on: of the right types, and of any value."""
    units, manager = value
    for line in [*boot_lines(manager), *unit_lines(units, manager, "system")]:
        msgspec.json.encode(line)
    for unit in units:
        rules_of(unit)
    return 1 + len(units)


STARTER = (
    b'# State: {"boots_left":3,"folder":"/home/a/r","user":1000,"label":"0417"}\n'
    b'[Desktop Entry]\nType=Application\nExec="a" "b"\nName=x\nTryExec=y\nOnlyShowIn=z;\n'
)


@cache
def starter():
    folder = tempfile.mkdtemp(prefix="plucky-ledger-fuzz-")
    return Path(folder) / "plucky-ledger-recorder.desktop"


def read_starter(changes):
    """The same damage at many places."""
    for place in range(PLACES):
        moved = [((share + place / PLACES) % 1, cut, put) for share, cut, put in changes]
        starter().write_bytes(edited(STARTER, moved))
        users_starter(starter()).read()
        entry = read_desktop_entry(starter())
        entry.program, entry.listed("OnlyShowIn")
    return PLACES


@cache
def small_ledger():
    """A ledger with a job and two boots."""
    path = starter().with_name("small.ledger")
    with Ledger(path) as ledger:
        number = take_in(
            ledger, Card("0417", "PC", "somebody", "slow"), Facts(os_release="Some Linux")
        )
        for boot in "ab":
            with step(ledger, StepCode.ADD_BOOT, number, how=How.TYPED) as session:
                readings = {Measure.SETTLED: Reading(61.5)}
                typed = Boot(number=0, started_at=now(), how=How.TYPED, marks={}, readings=readings)
                add_boot(session, number, None, typed, boot, recording()[:900])
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("VACUUM")
        tables = connection.execute(
            "SELECT name FROM sqlite_master WHERE type = 'table'"
        ).fetchall()
        columns = [
            (table, row[1])
            for (table,) in tables
            for row in connection.execute(f"PRAGMA table_info({table})")
        ]
    return path.read_bytes(), columns


cells = st.tuples(
    st.integers(0, 99),
    st.none()
    | st.binary(max_size=5)
    | st.integers(-(2**63), 2**63 - 1)
    | st.floats()
    | st.text(max_size=9)
    | anything.map(json.dumps),
)
bits = st.lists(st.tuples(st.floats(0, 1, exclude_max=True), st.integers(0, 7)), max_size=5)


def read_ledger(value):
    """Bits turned over anywhere, and cells that hold anything."""
    (column, cell), turned = value
    data, columns = small_ledger()
    path = starter().with_name("damaged.ledger")
    for left in path.parent.glob("damaged.ledger*"):
        left.unlink()
    image = bytearray(data)
    for share, bit in turned:
        image[int(share * len(image))] ^= 1 << bit
    path.write_bytes(image)
    if not turned:
        table, name = columns[column % len(columns)]
        with closing(sqlite3.connect(path)) as connection:
            try:
                connection.execute(f"UPDATE {table} SET {name} = ?", (cell,))
                connection.commit()
            except sqlite3.IntegrityError:
                return 1
    try:
        with open_as_far_as_readable(path) as ledger:
            for spine in read_shelf(ledger):
                read_job(ledger, spine.job)
    except Trouble as trouble:
        trouble_in_words(trouble)
    return 1


class Silent:
    """A service manager that is not asked."""

    owner = "user"

    def reload(self):
        pass


@cache
def home():
    """Folders of a made-up user, and of a made-up system."""
    folder = Path(tempfile.mkdtemp(prefix="plucky-ledger-fuzz-"))
    return Folders(
        folder / "config",
        (),
        system_units=folder / "units",
        administrators=folder / "var",
        etc=folder / "etc",
        state=folder / "state",
    )


@cache
def change():
    """What a journal says of one change."""
    units = home().user_units
    writes = (
        FileWrite(str(units / "default.target.wants"), NOTHING, Folder()),
        FileWrite(
            str(units / "default.target.wants/horn.service"), NOTHING, Link("../horn.service")
        ),
        FileWrite(
            str(home().autostart / "bell.desktop"),
            File("[Desktop Entry]\nType=Application\nExec=a\n", 0o600),
            File("[Desktop Entry]\nHidden=true\n"),
        ),
    )
    entry = EntryChange(
        "bell.desktop", "Bell", EntryState.ON, EntryState.OFF, writes, ChangeStage.DONE
    )
    return RecordedChange("key", "2026-11-29T09:00:00+00:00", "bench", "0417", (entry,))


def read_journal_of_changes(changes):
    """Damage, and values that should not be there; everything else goes on being read."""
    folder = home().journal_of_changes
    folder.mkdir(parents=True, exist_ok=True)
    whole = msgspec.json.encode(change())
    (folder / "000001-whole.json").write_bytes(whole)
    place = Scope("user", home(), Silent())
    for at in range(PLACES):
        moved = [((share + at / PLACES) % 1, cut, put) for share, cut, put in changes[0]]
        odd = json.loads(whole)
        (entry,) = odd["entries"]
        places = (odd, entry, entry["writes"][2], entry["writes"][2]["before"])
        for number, value in changes[1]:
            where = places[number % 4]
            where[sorted(where)[number % len(where)]] = value
        for name, data in (("2-odd", msgspec.json.encode(odd)), ("3-cut", edited(whole, moved))):
            (folder / f"00000{name}.json").write_bytes(data)
        known = place.changes()
        assert change() in known
        for path in {write.path for one in known for e in one.entries for write in e.writes}:
            inside = Path(os.path.normpath(path))
            roots = (home().user_units, home().autostart)
            assert any(
                root in (inside, *inside.parents) or inside in root.parents for root in roots
            ), path
    return 2 * PLACES


PLAN = NightPlan(
    "night-1",
    "0417",
    1000,
    ("bell.desktop", "horn.service"),
    ((), ("bell.desktop",)),
    40.0,
    boots=(Booted("one", ()),),
)


def read_a_plan(changes):
    """Damage in one slot leaves the other; damage in both leaves none."""
    take_room(home())
    keep_plan(PLAN, home())
    keep_plan(msgspec.structs.replace(PLAN, tries=1), home())
    path = plan_path(home())
    whole = path.read_bytes()
    end = LARGEST_PLAN + 900
    for at in range(PLACES):
        moved = [((share + at / PLACES) % 1, cut, put) for share, cut, put in changes]
        data = edited(whole[LARGEST_PLAN:end], moved)[: end - LARGEST_PLAN]
        path.write_bytes(whole[:LARGEST_PLAN] + data.ljust(LARGEST_PLAN))
        assert read_plan(home()).tries in {0, 1}
        path.write_bytes(edited(whole[:900], moved))
        read_plan(home())
    return 2 * PLACES


ORDERS = {
    "switch": SwitchRequest(
        "key", "0417", "bench", (EntryRequest("horn.service", "Horn", EntryState.OFF),)
    ),
    "put-back": RevertSelection(("key",), ("horn.service",)),
    "stop": "horn.service",
    "night-begin": Beginning(PLAN, Arming(3, "/r", 1000)),
}
orders = st.tuples(st.sampled_from(sorted(ORDERS)), odd_lines, edits)


def read_order(value):
    """Carried out in a PC where nothing answers: refused with a sentence, whatever it says."""
    request, changes, damage = value
    whole = msgspec.json.encode(ORDERS[request])
    odd = json.loads(whole)
    if isinstance(odd, dict):
        places = (odd, odd.get("plan", odd))
        for number, put in changes:
            where = places[number % 2]
            where[sorted(where)[number % len(where)]] = put
    part = of_night if request.startswith("night") else of_control
    for order in (msgspec.json.encode(odd), edited(whole, damage)):
        try:
            part.carry_out(request, order, {"SUDO_UID": "1000"})
        except Trouble as trouble:
            trouble_in_words(trouble)
        except (ValueError, msgspec.DecodeError, RecursionError):
            continue
    return 2


file_names = st.lists(
    st.binary(min_size=1, max_size=40).filter(
        lambda name: not {0, 47} & set(name) and name not in {b".", b"..", b"f"}
    ),
    min_size=1,
    max_size=6,
)


def survey_names(names):
    """As the administrator's process tells them."""
    root = home().config.parent / "surveyed"
    shutil.rmtree(root, ignore_errors=True)
    folder = os.fsencode(root)
    os.makedirs(folder)
    for name in names:
        folder += b"/" + name
        os.mkdir(folder)
        with open(folder + b"/f", "wb") as file:
            file.write(b"x" * 5000)
    told = surveyed.survey(lambda *_: True, root, running="6.1")
    assert msgspec.json.decode(msgspec.json.encode(told), type=Survey) == told
    assert told.files == len(names)
    return len(names)


def _nothing_answers():
    """Orders find made-up folders, and no service manager."""
    os.environ["DBUS_SYSTEM_BUS_ADDRESS"] = "unix:path=/nowhere"
    surveyed.LEAST_BYTES = 1
    for part in (of_control, of_night):
        part.Folders = type("Folders", (), {"of_this_user": staticmethod(home)})


READERS = {
    "damaged recordings": (damaged, read_damaged, 0.4),
    "recordings of odd lines": (odd_lines, read_odd_lines, 0.15),
    "journals of changes": (st.tuples(edits, odd_lines), read_journal_of_changes, 0.05),
    "plans of a night": (edits, read_a_plan, 0.05),
    "orders": (orders, read_order, 0.03),
    "names in a survey": (file_names, survey_names, 0.02),
    "journals": (messages, read_journal, 0.1),
    "answers of a manager": (managers, read_units, 0.09),
    "armings and desktop entries": (edits, read_starter, 0.1),
    "ledgers": (st.tuples(cells, bits), read_ledger, 0.01),
}
"""What is read, by what, and its part of all inputs."""


def stand(name, inputs, first_seed=0):
    """Give a reader at least so many inputs; returns how many, and the faults, one a round."""
    strategy, read, _ = READERS[name]
    _nothing_answers()
    faults, stood, round_ = [], 0, first_seed
    while stood < inputs:
        examples = min(ROUND, inputs - stood)

        @seed(round_)
        @settings(
            max_examples=examples,
            database=None,
            deadline=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        @given(strategy)
        def run(value):
            nonlocal stood
            if stood < inputs:
                stood += read(value)

        try:
            run()
        except Exception as fault:  # noqa: BLE001 that is what is looked for
            faults.append(fault)
            stood += examples
        round_ += 1
    return stood, faults


def _stood(name, inputs, first_seed, answers):
    logging.disable(logging.CRITICAL)
    begun = time.monotonic()
    stood, faults = stand(name, inputs, first_seed)
    told = [repr(fault)[:300] for fault in faults]
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    if starter.cache_info().currsize:
        shutil.rmtree(starter().parent)
    if home.cache_info().currsize:
        shutil.rmtree(home().config.parent)
    answers.put((name, stood, told, peak, time.monotonic() - begun))


def main(inputs=1_000_000, first_seed=0):
    """Each reader in a process of its own, as many at once as there are cores."""
    context = multiprocessing.get_context("spawn")
    answers = context.Queue()
    waiting = [
        context.Process(target=_stood, args=(name, int(inputs * part), first_seed, answers))
        for name, (_, _, part) in READERS.items()
    ]
    running, bad = [], 0
    for _ in READERS:
        while waiting and len(running) < (os.cpu_count() or 1):
            running.append(waiting.pop(0))
            running[-1].start()
        name, stood, faults, peak, seconds = answers.get()
        sys.stdout.write(
            f"{name}: {stood:,} inputs, {len(faults)} faults, peak {peak / 1e6:.0f} MB, "
            f"{seconds:.0f} s\n"
        )
        for fault in faults[:5]:
            sys.stdout.write(f"  {fault}\n")
        sys.stdout.flush()
        bad += len(faults) + (peak > LARGEST_MEMORY_BYTES)
        running = [process for process in running if process.is_alive() or process.exitcode is None]
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main(*map(int, sys.argv[1:])))
