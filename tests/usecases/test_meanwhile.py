"""What was done in a copy while a server was gone is done there again, step by step."""

from contextlib import suppress
from dataclasses import astuple, replace
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from sqlalchemy import func, select

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.job.parts import GONE
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Refused
from plucky_ledger.store import bringing_home
from plucky_ledger.store.job_parts import parts_of
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.tables.steps import StepRow
from plucky_ledger.usecases.changing.decisions import decide, write_finding
from plucky_ledger.usecases.changing.postings import pencil, post, rub_out, strike_out
from plucky_ledger.usecases.changing.programs_set_aside import set_program_aside
from plucky_ledger.usecases.jobs.job_files import look_into, take_in_file
from plucky_ledger.usecases.jobs.jobs import find_job, read_job, rewrite_card, take_in
from plucky_ledger.usecases.jobs.meanwhile import NOTHING, Meanwhile
from plucky_ledger.usecases.jobs.undo import redo, undo
from plucky_ledger.usecases.reading.entries import entries_known
from plucky_ledger.usecases.reading.grades import set_thresholds, thresholds
from plucky_ledger.usecases.recording.boots import add_typed, set_boot_aside
from plucky_ledger.usecases.recording.typed_entries import type_entries
from tests.usecases.test_shelf import kept_is_made


def as_it_stands(ledger, number):
    with ledger.session() as session:
        parts = parts_of(session, number).values()
    return {one.identity: (one.content, one.derived) for one in parts if one.content != GONE}


def steps_taken(ledger):
    with ledger.session() as session:
        return session.scalar(select(func.count(StepRow.number)).where(StepRow.undone.is_(False)))


def a_boot(ledger, number, nth):
    boots = len(read_job(ledger, number).boots)
    at = datetime(2026, 11, 3, 8, tzinfo=UTC) + timedelta(hours=boots)
    add_typed(ledger, number, {Measure.SETTLED: 40.0 + nth / 10}, at)


def pencil_one(ledger, number, nth):
    pencil(ledger, number, (Change(kind=ChangeKind.OTHER, what=f"a fan, no. {nth}"),))


def put_back_first(ledger, number, _nth):
    strike_out(ledger, number, next(one.number for one in read_job(ledger, number).postings))


def set_newest_aside(ledger, number, nth):
    *_, newest = sorted(boot.number for boot in read_job(ledger, number).boots)
    set_boot_aside(ledger, number, newest, f"odd, no. {nth}")


def decide_some(ledger, number, nth):
    wanted = Decision.LOOK_UP if nth % 2 else Decision.LATER
    decide(ledger, number, entries_known(ledger, number)[: nth % 3], wanted, f"reason {nth}")


def find_out(ledger, number, nth):
    entry = entries_known(ledger, number)[nth % 2]
    write_finding(ledger, number, entry.entry_id, f"finding {nth}")


def another_card(ledger, number, nth):
    rewrite_card(ledger, number, replace(read_job(ledger, number).card, title=f"PC {nth}"), Facts())


KINDS = [
    a_boot,
    pencil_one,
    lambda ledger, number, _nth: rub_out(ledger, number),
    lambda ledger, number, _nth: post(ledger, number),
    put_back_first,
    set_newest_aside,
    decide_some,
    find_out,
    lambda ledger, number, nth: set_program_aside(ledger, number, f"program-{nth}", "a guest's"),
    another_card,
    lambda ledger, number, _nth: undo(ledger, number),
    lambda ledger, number, _nth: redo(ledger, number),
]
NO_SHRINKING = [phase for phase in Phase if phase not in {Phase.shrink, Phase.explain}]
"""An example is a second: what failed is short enough to be read as it is."""
STEPS = st.tuples(st.sampled_from(KINDS), st.integers(0, 5))


def take(steps, ledger, number):
    """As far as there is anything of the kind to be done just then."""
    for step, nth in steps:
        with suppress(Refused, StopIteration, LookupError, ValueError):
            step(ledger, number, nth)


def begun(ledger, label):
    number = take_in(ledger, Card(label, f"PC {label}"), Facts())
    a_boot(ledger, number, 0)
    type_entries(ledger, number, "Deckhand Updater | deckhand --now\nTide Bell | tidebell")
    return number


@settings(deadline=None, max_examples=12, phases=NO_SHRINKING)
@given(
    before=st.lists(STEPS, max_size=4),
    meanwhile=st.lists(STEPS, min_size=1, max_size=8),
    others=st.lists(STEPS, max_size=4),
)
def test_steps_come_home_as_they_were_taken_whatever_others_wrote_in_other_jobs(
    tmp_path_factory, before, meanwhile, others
):
    folder = tmp_path_factory.mktemp("benches")
    kept = Meanwhile(folder / "meanwhile.ledger")
    with Ledger(folder / "server.ledger") as server:
        other, number = begun(server, "0420"), begun(server, "0421")
        take(before, server, number)
        assert kept.keep(server, number)
        at_first = as_it_stands(server, number)
        with kept.open() as copy:
            take(meanwhile, copy, number)
            wanted, new = as_it_stands(copy, number), steps_taken(copy)
        take(others, server, other)
        taken = steps_taken(server)
        home = kept.bring_home(server)
        assert (home.steps, home.files) == (new, ())
        assert as_it_stands(server, number) == wanted
        assert steps_taken(server) == taken + new
        kept_is_made(server)
        assert kept.bring_home(server) == NOTHING
        for _ in range(new):
            undo(server, number)
        assert as_it_stands(server, number) == at_first


@pytest.fixture
def kept(demo, tmp_path):
    """Copies of both jobs of the demo."""
    copies = Meanwhile(tmp_path / "meanwhile.ledger")
    for label in ("0398", "0417"):
        copies.keep(demo, find_job(demo, label))
    return copies


def test_several_jobs_and_a_new_one_come_home(demo, kept):
    numbers = [find_job(demo, label) for label in ("0398", "0417")]
    with kept.open() as copy:
        for number in numbers:
            decide(copy, number, entries_known(copy, number)[:1], Decision.LOOK_UP)
            a_boot(copy, number, 1)
        new = take_in(copy, Card("", "Ferry office PC"), Facts())
        a_boot(copy, new, 1)
        wanted = [as_it_stands(copy, number) for number in numbers]
    take_in(demo, Card("", "Another bench's PC"), Facts())  # has the number that the new one has
    home = kept.bring_home(demo)
    assert (home.steps, home.new, len(home.files)) == (4, {new}, 1)
    assert [as_it_stands(demo, number) for number in numbers] == wanted
    came = take_in_file(demo, look_into(demo, home.files[0])).job
    assert read_job(demo, came).card.title == "Ferry office PC"
    assert len(read_job(demo, came).boots) == 1
    assert read_job(demo, new).card.title == "Another bench's PC"


def test_cut_off_in_between_nothing_has_come_and_later_all_does(demo, kept, monkeypatch):
    number = find_job(demo, "0417")
    before, taken = as_it_stands(demo, number), steps_taken(demo)
    with kept.open() as copy:
        for nth in range(3):
            a_boot(copy, number, nth)
        wanted = as_it_stands(copy, number)
    put, left = bringing_home._put, iter(range(2))

    def cut_off(*arguments):
        if next(left, None) is None:
            raise KeyboardInterrupt
        put(*arguments)

    with monkeypatch.context() as cut:
        cut.setattr(bringing_home, "_put", cut_off)
        with pytest.raises(KeyboardInterrupt):
            kept.bring_home(demo)
    assert (as_it_stands(demo, number), steps_taken(demo)) == (before, taken)
    assert kept.bring_home(demo).steps == 3
    assert as_it_stands(demo, number) == wanted
    assert kept.bring_home(demo) == NOTHING


def test_a_job_that_others_wrote_in_is_to_be_brought_together(demo, kept):
    number = find_job(demo, "0417")
    before = as_it_stands(demo, number)
    with kept.open() as copy:
        decide(copy, number, entries_known(copy, number)[:1], Decision.LOOK_UP, "ours")
    set_program_aside(demo, number, "deckhand", "theirs")
    home = kept.bring_home(demo)
    assert (home.steps, len(home.files)) == (0, 1)
    incoming = look_into(demo, home.files[0])
    assert incoming.conflicts == ()
    assert as_it_stands(demo, number) != before
    assert kept.path.exists()  # until it is taken in


def times(factor, shares):
    return type(shares)(*(factor * share for share in astuple(shares)))


def test_what_belongs_to_the_workshop_comes_home_unless_it_was_changed_there(demo, kept):
    ours = thresholds(demo)
    with kept.open() as copy:
        set_thresholds(copy, times(2, ours))
    assert kept.bring_home(demo).steps == 1
    assert thresholds(demo) != ours
    kept.keep(demo, find_job(demo, "0398"))
    with kept.open() as copy:
        set_thresholds(copy, ours)
    theirs = times(3, ours)
    set_thresholds(demo, theirs)
    home = kept.bring_home(demo)
    assert home.others_count
    assert thresholds(demo) == theirs
