"""Boots in turns through the use cases: on the stand-in at once, elsewhere by hand."""

from datetime import UTC, datetime

import pytest

from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.book.turns import next_turn
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.job.pc_states import states_of
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.pages.book import book_page
from plucky_ledger.pages.folds import FoldKind, folds_of
from plucky_ledger.pages.statement import statement_page
from plucky_ledger.usecases.changing import postings
from plucky_ledger.usecases.jobs.jobs import find_job, read_job, take_in
from plucky_ledger.usecases.recording import stand_ins, turns
from plucky_ledger.usecases.recording.boots import add_typed
from plucky_ledger.wording.statement import statement_in_words
from plucky_ledger.wording.trouble import trouble_in_words

NOON = datetime(2026, 11, 26, 12, tzinfo=UTC)


def test_a_stand_in_is_switched_to_and_fro_and_each_boot_booked_to_its_state(demo, monkeypatch):
    """Interrupted after two boots and gone on with; what the swap file costs is known better.

    The boots are the same at every run: one time in twelve, four more scatter so that it is not.
    """
    monkeypatch.setattr(stand_ins, "now", lambda: NOON)
    number = find_job(demo, "0417")
    assert turns.begin_turns(demo, number, Measure.SETTLED, 4) == 4
    opening, *_ = states_of(read_job(demo, number)).of_round
    with pytest.raises(Refused) as refused:
        turns.pencil_state(demo, number, opening)
    assert refused.value.code is TroubleCode.PENCILLED_ALREADY
    postings.rub_out(demo, number)
    before = keep_book(read_job(demo, number), Measure.SETTLED).lines[4].shift
    assert [turns.play_turn(demo, number).left for _ in range(2)] == [3, 2]
    assert read_job(demo, number).turns is not None
    assert [turns.play_turn(demo, number).left for _ in range(2)] == [1, 0]
    job = read_job(demo, number)
    assert job.turns is None
    states = states_of(job)
    assert [len(states.boots(job, line)) for line in (3, 4)] == [10, 5]
    book = keep_book(job, Measure.SETTLED)
    assert book.balances
    shift = book.lines[4].shift
    assert shift.high - shift.low < before.high - before.low
    assert shift.low > 0
    rows = book_page(job, Measure.SETTLED).rows
    (fold,) = folds_of(rows)
    assert (fold.kind, fold.first, fold.last) == (FoldKind.TURNS, 5, len(rows) - 1)
    statement = statement_in_words(statement_page(job, Measure.SETTLED), NOON)
    assert [line.particulars for line in statement.done][5:] == ["Boots in turns"]
    assert statement.done[-1].result == "measured over 8 starts"


def test_elsewhere_each_turn_waits_for_hands(ledger):
    number = take_in(ledger, Card("", "Till PC"), Facts())
    for seconds in (60.0, 61.0, 60.5):
        add_typed(ledger, number, {Measure.SYSTEM_UP: seconds})
    postings.write_down(ledger, number, (Change(kind=ChangeKind.SWAP, what="8 GB of swap"),))
    add_typed(ledger, number, {Measure.SYSTEM_UP: 50.0}, datetime(2027, 1, 1, tzinfo=UTC))
    assert turns.begin_turns(ledger, number, Measure.SYSTEM_UP, 1) == 6
    assert turns.take_turn(ledger, number) == turns.Turn(6)
    add_typed(ledger, number, {Measure.SYSTEM_UP: 50.5}, datetime(2027, 1, 2, tzinfo=UTC))
    for _ in range(2):  # asking twice pencils once
        assert turns.take_turn(ledger, number) == turns.Turn(5, by_hand=True)
    (change,) = read_job(ledger, number).pencilled.changes
    assert change.put_back
    postings.post(ledger, number)
    job = read_job(ledger, number)
    assert states_of(job).now(job) == next_turn(job)
    assert turns.take_turn(ledger, number) == turns.Turn(5)
    turns.end_turns(ledger, number)
    assert turns.take_turn(ledger, number) == turns.Turn(0)
    with pytest.raises(Refused) as refused:
        turns.begin_turns(ledger, number, Measure.SYSTEM_UP, 0)
    assert "the line compares no two states" in trouble_in_words(refused.value)
