"""What is selected, without a window: laws that hold whatever happens to the job."""

from dataclasses import replace
from uuid import UUID

from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.selection import Selection
from plucky_ledger.pages.shelf import is_measured
from tests.helpers.strategies import jobs


def named(job):
    """The job with names for its boots, as a ledger gives them."""
    numbers = iter(range(1, 10_000))

    def name(boots):
        return tuple(
            replace(boot, number=number, uuid=str(UUID(int=number)))
            for boot, number in zip(boots, numbers, strict=False)
        )

    postings = tuple(replace(one, boots=name(one.boots)) for one in job.postings)
    return replace(job, opening_boots=name(job.opening_boots), postings=postings)


@given(jobs().map(named), st.integers(0, 8))
def test_a_line_shows_its_own_boots_or_those_measured_last(job, line):
    there = Selection().opened(job).at_line(line)
    upto = job.rounds[: line + 1]
    assert there.boots in (*upto, ())
    assert bool(there.boots) is any(upto)
    assert there.boot is None or there.boot in there.boots
    counting = [boot for boot in there.boots if boot.counts]
    if counting:
        assert there.boot == counting[-1]
    assert (there.posting is not None) is (1 <= line <= len(job.postings))


@given(jobs().map(named), st.integers(0, 8), st.data())
def test_what_was_selected_stays_when_the_job_changes_elsewhere(job, line, data):
    before = Selection().opened(job).at_line(line)
    boot = data.draw(st.sampled_from(before.boots)) if before.boots else None
    before = replace(before, boot=boot)
    after = before.refreshed(replace(job, card=replace(job.card, title="Another name")))
    assert after.job is not None
    assert after.job.card.title == "Another name"
    assert after.boot == boot
    assert after.line == min(line, len(job.rounds))


@given(jobs().map(named), jobs().map(named), st.integers(0, 8))
def test_whatever_becomes_of_the_job_the_selection_points_into_it(job, later, line):
    after = Selection().opened(job).at_line(line).refreshed(later)
    assert after.line <= len(later.rounds)
    assert after.boot is None or after.boot in after.boots
    any_measure = any(is_measured(later, measure) for measure in Measure)
    assert is_measured(later, after.measure) or not any_measure


def test_an_empty_desk_selects_nothing():
    nothing = Selection()
    assert (nothing.boots, nothing.posting, nothing.boot) == ((), None, None)
