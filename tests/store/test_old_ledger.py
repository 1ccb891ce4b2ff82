"""A ledger that an earlier version wrote: opened, brought up to date, and balanced as before."""

import json
import shutil
from pathlib import Path

import pytest

from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.job.entry_states import decisions_of
from plucky_ledger.core.job.job import state_of
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.store.decisions import decisions
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job, read_jobs
from plucky_ledger.usecases.jobs.undo import undo
from plucky_ledger.usecases.recording.pcs import pc_of

OLD = Path(__file__).parent.parent / "data" / "ledger-0002"
EXPECTED = json.loads((OLD / "expected.json").read_text())
"""What the version that wrote it said of it."""


@pytest.fixture
def migrated(tmp_path):
    path = shutil.copy(OLD / "workshop.ledger", tmp_path / "workshop.ledger")
    with Ledger(Path(path)) as ledger:
        yield ledger


@pytest.fixture
def jobs(migrated):
    return {job.card.label: job for job in read_jobs(migrated)}


def test_every_job_is_there_and_what_it_replaced_is_kept(migrated, jobs, tmp_path):
    assert set(jobs) == set(EXPECTED)
    (backup,) = tmp_path.glob("*.before-*")
    assert backup.read_bytes() == (OLD / "workshop.ledger").read_bytes()


@pytest.mark.parametrize("label", EXPECTED)
def test_it_balances_as_before(jobs, label):
    job, expected = jobs[label], EXPECTED[label]
    books = {measure: keep_book(job, measure) for measure in Measure}
    balances = {
        measure.value: [line.balance.units if line.balance else None for line in book.lines]
        for measure, book in books.items()
    }
    assert balances == expected["balances"]
    assert all(book.balances for book in books.values())


@pytest.mark.parametrize("label", EXPECTED)
def test_postings_boots_and_decisions_mean_what_they_meant(migrated, jobs, label):
    job, expected = jobs[label], EXPECTED[label]
    assert [state_of(job, posting).value for posting in job.postings] == expected["postings"]
    kinds = [[change.kind.name for change in posting.changes] for posting in job.postings]
    assert kinds == expected["kinds"]
    assert [len(boots) for boots in job.rounds] == expected["boots"]
    assert [[boot.how.name for boot in boots] for boots in job.rounds] == expected["how"]
    marks = [
        [{mark.name: at for mark, at in boot.marks.items()} for boot in boots]
        for boots in job.rounds
    ]
    assert marks == expected["marks"]
    with migrated.session() as session:
        decided = {
            entry: [one.decision.name, one.reason, one.finding]
            for entry, one in decisions_of(job, decisions(session, job.number)).items()
        }
    assert decided == expected["decisions"]


def test_everything_has_an_identity_and_its_pc(jobs):
    names = [one.uuid for job in jobs.values() for one in (job, *job.postings, *job.boots)]
    assert all(names)
    assert len(set(names)) == len(names)
    recorded_on = {label: job.pc.kind for label, job in jobs.items()}
    assert recorded_on["0398"] is PcKind.STAND_IN
    assert pc_of(jobs["0398"]).abilities.speed


def test_its_steps_are_undone_as_before(migrated, jobs):
    """A step written with words and whole tables in it still goes back exactly."""
    before = jobs["0398"]
    step = undo(migrated, before.number)
    assert step is not None
    assert read_job(migrated, before.number) != before
