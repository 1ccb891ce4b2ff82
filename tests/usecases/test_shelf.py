"""The shelf: what is kept of each job is what its book says, whatever step was taken."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from click.testing import CliRunner
from sqlalchemy import select, text

from plucky_ledger.cli.main import main
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.shelf.spine import SPINE_RULE
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.pages.shelf import ShelfFilter, ShelfOrder, counts, group_of, is_shown, shelf
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.spines import made_spine, read_spines
from plucky_ledger.store.tables.spines import SpineRow
from plucky_ledger.usecases.changing.decisions import decide, decisions_in, write_finding
from plucky_ledger.usecases.changing.postings import pencil, post
from plucky_ledger.usecases.jobs.jobs import find_job, rewrite_card, take_in
from plucky_ledger.usecases.jobs.shelf import keep_missing_spines, read_shelf
from plucky_ledger.usecases.jobs.undo import redo, undo
from plucky_ledger.usecases.reading.elsewhere import WorkshopMemory, keep_missing_lessons
from plucky_ledger.usecases.reading.entries import entries_known
from plucky_ledger.usecases.recording.boots import add_typed, set_boot_aside
from plucky_ledger.usecases.recording.typed_entries import type_entries
from plucky_ledger.wording.shelf import state

BEGAN = datetime(2026, 11, 1, 8, 0, tzinfo=UTC)


def kept_is_made(ledger):
    with ledger.session() as session:
        kept = read_spines(session)
        made = [made_spine(session, spine.job) for spine in kept]
    assert list(kept) == made
    assert read_shelf(ledger) == kept
    return kept


def test_every_step_keeps_what_the_book_says(demo):
    assert len(kept_is_made(demo)) == 2
    number = find_job(demo, "0417")
    entries = entries_known(demo, number)
    steps = [
        lambda: decide(demo, number, entries[:2], Decision.LOOK_UP),
        lambda: write_finding(demo, number, entries[0].entry_id, "known to be needed"),
        lambda: add_typed(demo, number, {Measure.SETTLED: 47.0}),
        lambda: post(demo, number),
        lambda: rewrite_card(demo, number, Card("0417", "Other name", "Somebody"), Facts()),
        lambda: take_in(demo, Card("", "Quay PC"), Facts()),
    ]
    before = [kept_is_made(demo)]
    for take in steps:
        take()
        before.append(kept_is_made(demo))
        assert before[-1] != before[-2]
    undo(demo, None)  # the PC that was taken in
    assert len(kept_is_made(demo)) == 2
    for expected in reversed(before[:-2]):
        undo(demo, number)
        assert kept_is_made(demo) == expected
    redo(demo, number)
    assert kept_is_made(demo) == before[1]


def test_what_an_older_version_has_not_kept_is_made_when_it_is_wanted(demo):
    whole = kept_is_made(demo)
    with demo.session() as session:
        session.connection().exec_driver_sql("DELETE FROM spines")
    assert read_shelf(demo) == whole
    assert keep_missing_spines(demo) == 2
    assert keep_missing_spines(demo) == 0
    assert kept_is_made(demo) == whole


def test_what_a_later_version_has_kept_is_left_to_it(demo):
    """Benches of two versions at one ledger: the shelf is whole at both."""
    whole = kept_is_made(demo)
    with demo.session() as session:
        session.connection().exec_driver_sql(
            f"UPDATE spines SET rule = {SPINE_RULE + 1}, spine = 'of tomorrow'"
        )
    assert read_shelf(demo) == whole
    assert keep_missing_spines(demo) == keep_missing_lessons(demo) == 0
    with demo.session() as session:
        assert read_spines(session) == ()
        assert set(session.scalars(select(SpineRow.spine))) == {"of tomorrow"}
    rewrite_card(demo, find_job(demo, "0417"), Card("0417", "Other name"), Facts())
    with demo.session() as session:  # what was changed is told anew
        assert len(read_spines(session)) == 1


@pytest.fixture
def many(ledger):
    """A PC that got slower, one that did not, and one nobody heard of for long."""
    numbers = {}
    for name, later, first in (
        ("slower", 8.0, BEGAN),
        ("same", 0.0, BEGAN),
        ("quiet", 0.0, BEGAN - timedelta(days=90)),
    ):
        number = take_in(
            ledger,
            Card("", name, "Sailmaker Lane Library"),
            Facts(cpu_model=f"model of {name}", memory_bytes=int(8e9)),
        )
        for boot in range(12):
            seconds = 40.0 + boot % 3 / 5 + (later if boot >= 6 else 0.0)
            add_typed(ledger, number, {Measure.SETTLED: seconds}, first + timedelta(days=boot))
        numbers[number] = name
    return numbers


def test_the_board_shows_what_got_slower_and_what_is_quiet(ledger, many):
    spines, now = kept_is_made(ledger), BEGAN + timedelta(days=20)

    def shown(wanted):
        return {many[spine.job] for spine in spines if is_shown(spine, wanted, now)}

    assert shown(ShelfFilter.ALL) == {"slower", "same", "quiet"}
    assert shown(ShelfFilter.SLOWER) == {"slower"}
    assert shown(ShelfFilter.QUIET) == {"quiet"}
    assert counts(spines, now)[ShelfFilter.DUE] == 0
    (slower,) = [spine for spine in spines if spine.slower_by]
    assert slower.slower_by == pytest.approx(8.0, abs=0.5)
    assert BEGAN + timedelta(days=6) <= slower.slower_since <= BEGAN + timedelta(days=7)
    by_model = shelf(spines, ShelfOrder.MODEL)
    assert [many[spine.job] for spine in by_model] == ["quiet", "same", "slower"]
    assert group_of(by_model[0], ShelfOrder.MODEL) == "model of quiet, 8 GB"
    assert group_of(by_model[0], ShelfOrder.OWNER) == "Sailmaker Lane Library"
    assert group_of(by_model[0], ShelfOrder.SAVED) is None


def test_a_pc_of_which_only_boots_are_known_is_new_until_somebody_writes_of_it(ledger):
    """As those that came in by recordings."""
    number = take_in(ledger, Card("", "ticketdesk-2"), Facts())

    def is_new():
        (spine,) = kept_is_made(ledger)
        return is_shown(spine, ShelfFilter.NEW, BEGAN) and "card still empty" in state(spine)

    assert not is_new()  # somebody stands before it
    add_typed(ledger, number, {Measure.SETTLED: 40.0}, BEGAN)
    assert is_new()
    (spine,) = kept_is_made(ledger)
    rewrite_card(ledger, number, replace(spine.card, owner="Harbour Office"), Facts())
    assert not is_new()
    undo(ledger, number)
    assert is_new()
    type_entries(ledger, number, "Deckhand Updater | deckhand --now")
    decide(ledger, number, entries_known(ledger, number), Decision.LOOK_UP)
    assert not is_new()


def test_the_command_line_shows_them_too(many, ledger):
    where = ledger.address.text
    ledger.close()
    told = CliRunner().invoke(main, ["jobs", "--show", "slower", "--ledger", where])
    assert "s slower since" in told.output
    assert "quiet" not in told.output


def test_a_job_is_in_work_until_what_was_decided_was_seen_in_a_boot(ledger):
    number = take_in(ledger, Card("", "Harbour PC"), Facts())
    add_typed(ledger, number, {Measure.SETTLED: 60.0})

    def in_work():
        (spine,) = kept_is_made(ledger)
        return spine.in_work

    assert not in_work()
    pencil(ledger, number, (Change(kind=ChangeKind.OTHER, what="a fan"),))
    assert in_work()
    post(ledger, number)
    assert in_work()
    add_typed(ledger, number, {Measure.SETTLED: 40.0})
    assert not in_work()


def test_a_decision_is_no_other_jobs(demo):
    number, other = (find_job(demo, label) for label in ("0417", "0398"))
    entry = entries_known(demo, number)[:1]
    before = {spine.job: spine for spine in kept_is_made(demo)}
    decide(demo, number, entry, Decision.LOOK_UP)
    after = {spine.job: spine for spine in kept_is_made(demo)}
    assert decisions_in(demo, number)
    assert after[other] == before[other]
    set_boot_aside(demo, other, 1, "somebody pulled the plug")
    kept_is_made(demo)


def taught(demo):
    """What a memory that was never asked before tells, by all ways there are."""
    memory, number = WorkshopMemory(), find_job(demo, "0398")
    identities = [entry.identity for entry in entries_known(demo, number)]
    programs = memory.elsewhere(demo, identities, number)
    assert any(told.jobs for told in programs.values())
    return programs, memory.look_ups(demo), memory.plans(demo)


def test_what_jobs_taught_is_kept_until_somebody_writes_in_them(demo):
    worked_out, kept = taught(demo), WorkshopMemory()
    assert keep_missing_lessons(demo) == 2
    assert keep_missing_lessons(demo) == 0
    assert taught(demo) == worked_out
    assert kept.look_ups(demo) == worked_out[1]
    number = find_job(demo, "0417")
    decide(demo, number, entries_known(demo, number)[:2], Decision.LOOK_UP)
    after = taught(demo)
    assert after != worked_out
    assert kept.look_ups(demo) == after[1]
    assert keep_missing_lessons(demo) == 1
    assert taught(demo) == after
    undo(demo, number)
    assert taught(demo) == worked_out
    assert kept.look_ups(demo) == worked_out[1]


@pytest.mark.in_a_file
@pytest.mark.parametrize(
    "column", ["lessons SET saved_seconds", "lessons SET decided", "jobs SET label"]
)
def test_damaged_lessons_are_refused_with_a_sentence(demo, column):
    assert keep_missing_lessons(demo) == 2
    identities = [entry.identity for entry in entries_known(demo, find_job(demo, "0417"))]
    with demo.session() as session:
        session.execute(text(f"UPDATE {column} = X'FF'"))
    with pytest.raises(LedgerFault) as told:
        WorkshopMemory().elsewhere(demo, identities, 0)
    assert told.value.code is TroubleCode.LEDGER_DAMAGED


@pytest.mark.in_a_file
def test_what_others_write_is_learned_by_who_only_looks(demo, demo_place):
    number = find_job(demo, "0417")
    with Ledger(demo_place, Trouble(TroubleCode.LEDGER_FOR_READERS)) as looked_at:
        memory = WorkshopMemory()
        before = memory.look_ups(looked_at)
        decide(demo, number, entries_known(demo, number)[:2], Decision.LOOK_UP)
        after = memory.look_ups(looked_at)
        assert len(after) > len(before)
        undo(demo, number)
        assert memory.look_ups(looked_at) == before
        redo(demo, number)
        assert memory.look_ups(looked_at) == after
