"""A workshop's ledger, in a file and on a server: how long the shelf and a job take where there are
many, and what a step takes where twenty benches write at once.

WORKSHOP_JOBS and WORKSHOP_BOOTS say how many there are of each; fewer with QUICK.
"""

import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import insert, select
from tests.helpers.server import Server, programs

from goals import measured, often
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.lessons import keep_lessons
from plucky_ledger.store.spines import keep_spine
from plucky_ledger.store.tables.jobs import BootRow, JobRow
from plucky_ledger.store.tables.spines import LessonRow, SpineRow
from plucky_ledger.usecases.changing.decisions import decide
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.jobs.shelf import read_shelf
from plucky_ledger.usecases.reading.elsewhere import WorkshopMemory
from plucky_ledger.usecases.reading.entries import entries_known
from plucky_ledger.usecases.recording.boots import add_typed
from plucky_ledger.usecases.recording.typed_entries import type_entries

JOBS, BOOTS_A_JOB, DECIDED = often(10_000, 300), 20, 5
BENCHES, STEPS_A_BENCH = 20, often(50, 10)
BEGAN = datetime(2026, 1, 5, 8, 0, tzinfo=UTC)
PACE = 1.2
"""Seconds between the steps of one bench: a thousand of all in a minute."""
BENCH = (
    f"PACE = {PACE}"
    + """
import json, random, sys, time
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.recording.boots import add_typed
address, number, steps = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
took = []
with Ledger(address) as ledger:
    add_typed(ledger, number, {Measure.SETTLED: 39.0})
    print("ready", flush=True)
    sys.stdin.readline()
    for step in range(steps):
        time.sleep(random.uniform(0, 2 * PACE))
        begun = time.monotonic()
        add_typed(ledger, number, {Measure.SETTLED: 40.0 + step})
        took.append(time.monotonic() - begun)
print(json.dumps(took))
"""
)


def fill(ledger: Ledger) -> None:
    """One job made as it is made, and copied row by row under other names."""
    number = take_in(ledger, Card("", "PC", "Sailmaker Lane Library"), Facts(cores=4))
    for boot in range(BOOTS_A_JOB):
        add_typed(ledger, number, {Measure.SETTLED: 50.0 + boot % 5}, BEGAN + timedelta(days=boot))
    type_entries(ledger, number, "\n".join(f"Made up {n} | made-up-{n}" for n in range(DECIDED)))
    decide(ledger, number, entries_known(ledger, number), Decision.KEEP)
    with ledger.session() as session:
        job = dict(session.execute(select(JobRow.__table__)).mappings().one())
        boots = [dict(row) for row in session.execute(select(BootRow.__table__)).mappings()]
        for first in range(2, JOBS + 1, 500):
            numbers = range(first, min(first + 500, JOBS + 1))
            others = [
                {**job, "number": n, "label": f"{n:05d}", "title": f"PC {n}", "uuid": f"job {n}"}
                for n in numbers
            ]
            session.execute(insert(JobRow), others)
            session.execute(
                insert(BootRow),
                [
                    {**boot, "number": n * BOOTS_A_JOB + at, "job": n, "uuid": f"boot {n} {at}"}
                    for n in numbers
                    for at, boot in enumerate(boots)
                ],
            )
        session.flush()
        keep_spine(session, number)
        session.flush()
        keep_lessons(session, number)
        session.flush()
        spine = dict(session.execute(select(SpineRow.__table__)).mappings().one())
        lessons = [dict(row) for row in session.execute(select(LessonRow.__table__)).mappings()]
        kept = json.loads(spine["spine"])
        for n in range(2, JOBS + 1):
            kept["job"], kept["card"]["label"], kept["card"]["title"] = n, f"{n:05d}", f"PC {n}"
            session.execute(insert(SpineRow), {**spine, "job": n, "spine": json.dumps(kept)})
            session.execute(insert(LessonRow), [{**lesson, "job": n} for lesson in lessons])


def quickest(work, times: int = 3) -> float:
    """Seconds of the quickest of some runs: others compute beside it."""
    took = []
    for _ in range(times):
        begun = time.monotonic()
        work()
        took.append(time.monotonic() - begun)
    return min(took)


def size_up(ledger: Ledger, where: str) -> None:
    """The shelf, and one job of all."""
    fill(ledger)
    there = f"{JOBS} jobs with {JOBS * BOOTS_A_JOB} boots {where}"
    measured(f"s for the shelf, {there}", quickest(lambda: read_shelf(ledger)), 0.5)
    measured(f"s to open a job, {there}", quickest(lambda: read_job(ledger, JOBS // 2)), 0.3)
    memory = WorkshopMemory()
    first, *_ = entries_known(ledger, 1)

    def known() -> None:
        told = memory.elsewhere(ledger, [first.identity], 1)
        assert told[first.identity].jobs == JOBS - 1

    begun = time.monotonic()
    known()
    first_look = time.monotonic() - begun
    measured(f"s for a program that all have, {there}, first look", first_look, 0.1)
    measured(f"s for a program that all have, {there}", quickest(known), 0.1)


def benches_at_once(server: Server) -> None:
    """Each in a job of its own, in processes of their own: an hour of the trade in a minute."""
    address = server.ledger()
    with Ledger(address) as ledger:
        numbers = [take_in(ledger, Card("", f"PC {n}"), Facts()) for n in range(BENCHES)]
    running = [
        subprocess.Popen(
            [sys.executable, "-c", BENCH, address.text, str(number), str(STEPS_A_BENCH)],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
        )
        for number in numbers
    ]
    for one in running:
        assert one.stdout is not None
        assert one.stdout.readline() == b"ready\n"
    for one in running:
        assert one.stdin is not None
        one.stdin.write(b"\n")
        one.stdin.flush()
    answers = [one.communicate()[0] for one in running]
    took = [seconds for answer in answers for seconds in json.loads(answer)]
    with Ledger(address) as ledger:
        kept = [len(read_job(ledger, number).boots) for number in numbers]
    assert kept == [STEPS_A_BENCH + 1] * BENCHES, kept
    worst = statistics.quantiles(took, n=100)[98]
    about = f"{BENCHES} benches at once, {len(took)} steps; median {statistics.median(took):.3f} s"
    measured("s of a step, 99 of 100", worst, 0.2, worst=about)


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        with Ledger(Path(folder) / "many.ledger") as ledger:
            size_up(ledger, "in a file")
        if programs() is None:
            return
        os.chmod(folder, 0o711)
        server = Server(Path(folder) / "server", fsync="on")
        try:
            with Ledger(server.ledger()) as ledger:
                size_up(ledger, "on a server")
            benches_at_once(server)
        finally:
            server.stop("immediate")


if __name__ == "__main__":
    main()
