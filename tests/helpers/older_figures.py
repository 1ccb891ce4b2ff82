"""A ledger whose figures an older method worked out."""

import sqlite3
from contextlib import closing

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.usecases.changing.programs_set_aside import set_program_aside
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import find_job, read_job
from plucky_ledger.usecases.recording.boots import add_timed, add_typed

MARKS = {Mark.POWER_ON: 0.0, Mark.DESKTOP_SHOWN: 31.0, Mark.SETTLED: 58.0}


def of_an_older_method(demo):
    """The demo job, with one boot timed and one typed in, by a method that went wrong since; the
    file, and the figures by today's.
    """
    number = find_job(demo, "0417")
    add_timed(demo, number, MARKS, now())
    add_typed(demo, number, {Measure.SETTLED: 61.0}, now())
    set_program_aside(demo, number, "saltmarsh-backup", "a copy made while we measured")
    right = [boot.readings for boot in read_job(demo, number).boots]
    path = demo.path
    demo.close()
    with closing(sqlite3.connect(path)) as connection, connection:
        wrong = '{"settled": {"value": 1.0, "censored": false}}'
        connection.execute(
            "UPDATE boots SET method = 0, readings = ? WHERE how != 'typed'", (wrong,)
        )
        connection.execute("UPDATE boots SET method = 0")
    return path, right
