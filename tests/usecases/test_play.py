"""The whole job on the stand-in PC: what comes back, what is put back, and a book that balances."""

from datetime import UTC, datetime

import pytest
from click.testing import CliRunner

from plucky_ledger.cli.main import main
from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.book.plans import plans_held
from plucky_ledger.core.entries.hints import is_guarded
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.job import changes_in_force, state_of
from plucky_ledger.core.job.noticed import ENTRY
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.pages.verdict import verdict_page
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.changing.stop_now import stop_now
from plucky_ledger.usecases.jobs.jobs import find_job, read_job
from plucky_ledger.usecases.reading.entries import entries_known
from plucky_ledger.wording.verdict import as_expected

WHEN = datetime(2026, 11, 2, 9, 0, tzinfo=UTC)


def test_the_job_is_played_from_taking_in_to_the_statement(tmp_path, monkeypatch):
    # Every restart of a stand-in goes a little differently, by the clock.
    monkeypatch.setattr("plucky_ledger.usecases.recording.stand_ins.now", lambda: WHEN)
    path, out = tmp_path / "play.ledger", tmp_path / "statement.html"
    told = CliRunner().invoke(main, ["demo", "--play", "--ledger", str(path), "--out", str(out)])
    assert told.exit_code == 0, told.output
    assert "saved" in told.output
    assert out.stat().st_size > 5_000
    with Ledger(path) as ledger:
        job = read_job(ledger, find_job(ledger, "0001"))
    assert [len(boots) for boots in job.rounds] == [3, 3, 3, 3, 3]
    assert all(keep_book(job, measure).balances for measure in Measure)
    first, for_good, one_back, everything = job.postings
    # What was expected stands beside what was measured, in the verdict, too.
    expected = verdict_page(job, Measure.SETTLED, 1)
    assert [row.measure for row in expected.rows if row.expected] == [
        Measure.SETTLED,
        Measure.SYSTEM_UP,
    ]
    # It did not hold: one of them started all the same.
    assert "Settled: predicted" in as_expected(expected)
    assert expected.rows[1].plan_held is False
    # Off for the first boot, back in the second: noticed then, and not once it is off for good.
    noted = [[r.code for r in boot.context.noticed] for boot in first.boots]
    assert noted == [[], [ReasonCode.CAME_BACK], [ReasonCode.CAME_BACK]]
    assert first.boots[1].context.noticed[0].facts[ENTRY] == "deckhand-updater"
    assert [change.new_state for change in for_good.changes] == [EntryState.OFF_FOR_GOOD]
    assert not any(boot.context.noticed for boot in for_good.boots)
    assert len(one_back.changes) == 1
    states = [state_of(job, posting) for posting in job.postings]
    assert states == [PostingState.STRUCK_OUT] * 2 + [PostingState.IN_FORCE] * 2
    assert not changes_in_force(job)
    shifts = [line.shift.value for line in keep_book(job, Measure.SETTLED).lines[1:]]
    assert [shift < 0 for shift in shifts] == [True, True, False, False]
    opening, *_, closing = (line.balance.value for line in keep_book(job, Measure.SETTLED).lines)
    assert abs(opening - closing) < 4.0
    assert len(plans_held(job)) == 2
    assert everything.strikes_out is None


def test_what_runs_on_the_stand_in_is_ended_as_a_trial(demo):
    """What switches itself on again is back after some seconds; what is guarded stays."""
    ledger, number = demo, find_job(demo, "0417")
    entries = {entry.entry_id: entry for entry in entries_known(ledger, number)}
    stopped = stop_now(ledger, number, entries["foghorn-notify"])
    assert stopped.processes >= 1
    assert stopped.freed_bytes > 10e6
    assert stopped.came_back_seconds is None
    back = stop_now(ledger, number, entries["deckhand-updater"])
    assert (back.came_back_seconds, back.started_again_by) == (3.0, back.name)
    guarded = next(e for e in entries.values() if is_guarded(e, ()))
    with pytest.raises(Refused) as refused:
        stop_now(ledger, number, guarded)
    assert refused.value.code is TroubleCode.GUARDED_FROM_STOPPING
    with pytest.raises(Refused) as refused:
        stop_now(ledger, number, entries["lanternprint-agent"])
    assert refused.value.code is TroubleCode.NOT_RUNNING
