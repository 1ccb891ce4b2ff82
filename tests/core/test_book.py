"""The law of the book, and what its lines say."""

import math
from dataclasses import replace

from hypothesis import assume, given
from hypothesis import strategies as st

from plucky_ledger.core.book.balance import Balance, balances_of, in_book_units, staircase
from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.book.verdict import Verdict
from plucky_ledger.core.job.job import readings_in, state_of
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.statistics.pseudo_median import pseudo_median
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import book_page
from plucky_ledger.usecases.jobs.jobs import read_jobs
from plucky_ledger.wording.book import closing, row_in_words, total_lost, total_saved
from tests.helpers.strategies import boots, jobs


@given(jobs(), st.sampled_from(Measure))
def test_opening_less_saved_plus_lost_is_closing(job, measure):
    """Exactly, in every measure, with boots set aside, censored or lacking the measure."""
    book = keep_book(job, measure)
    assert book.balances
    if book.opening is None:
        assert all(line.balance is None for line in book.lines)
    else:
        for line in book.lines:
            if line.same_as is not None:
                assert line.balance == book.lines[line.same_as].balance
                assert line.saved_units == line.lost_units == 0
            if line.shift is not None:
                before = book.lines[line.compared_with].balance
                assert before.units + line.shift.units == line.balance.units


@given(jobs(), st.sampled_from(Measure), boots, st.integers(0, 5))
def test_a_boot_more_never_makes_the_book_contradict_itself(job, measure, boot, at):
    """It balances, and no line is stamped with what its own interval denies."""
    rounds = [*job.rounds]
    rounds[at % len(rounds)] += (boot,)
    opening, *others = rounds
    later = tuple(replace(p, boots=b) for p, b in zip(job.postings, others, strict=True))
    book = keep_book(replace(job, opening_boots=opening, postings=later), measure)
    assert book.balances
    for shift in (line.shift for line in book.lines if line.shift is not None):
        if shift.verdict is Verdict.SAVED:
            assert shift.high is None or shift.high < 0
        if shift.verdict is Verdict.LOST:
            assert shift.low is None or shift.low > 0
        if min(shift.before.boots, shift.after.boots) < 3:
            assert shift.verdict is Verdict.UNPROVEN


@given(jobs(), st.sampled_from(Measure))
def test_the_balances_alone_are_those_of_the_book(job, measure):
    of_the_book = [line.balance for line in keep_book(job, measure).lines]
    assert balances_of(job, measure) == [balance for balance in of_the_book if balance is not None]


@given(st.lists(st.integers(0, 10**7), min_size=1, max_size=9))
def test_the_highest_step_of_a_staircase_is_one(units):
    assume(max(units) > 0)
    heights = staircase([Balance(Measure.SETTLED, amount, 3) for amount in units])
    assert max(heights) == 1.0
    assert all(
        math.isclose(height * max(units), amount, rel_tol=1e-9, abs_tol=1e-9)
        for height, amount in zip(heights, units, strict=True)
    )


@given(jobs(), st.sampled_from(Measure))
def test_the_figures_shown_add_up_to_the_last_digit(job, measure):
    """A technician who adds the printed figures by hand gets the printed balance."""
    page = book_page(job, measure)

    def units(text):
        figure = text.replace(",", "").replace("≥ ", "").split(" ")[0]
        return round(float(figure) * 10**measure.terms.decimals) if figure else 0

    shown = [row_in_words(row).balance for row in page.rows if row.balance]
    if shown:
        total = units(shown[0]) - units(total_saved(page)) + units(total_lost(page))
        assert total == units(shown[-1]) == units(closing(page))


@given(jobs(), st.sampled_from(Measure))
def test_a_boot_set_aside_counts_for_nothing(job, measure):
    """Setting a boot aside gives the same book as if it had never been recorded."""
    without = replace(job, opening_boots=tuple(b for b in job.opening_boots if b.counts))
    assert [line.balance for line in keep_book(job, measure).lines] == [
        line.balance for line in keep_book(without, measure).lines
    ]


@given(jobs())
def test_state_of_a_posting_follows_from_what_happened(job):
    """Pencilled until posted, posted until a boot is seen, struck out once it is put back."""
    undone = {p.strikes_out for p in job.postings if p.posted_at is not None}
    for posting in job.postings:
        state = state_of(job, posting)
        if posting.posted_at is None:
            assert state is PostingState.PENCILLED
        elif posting.number in undone:
            assert state is PostingState.STRUCK_OUT
        else:
            wanted = PostingState.IN_FORCE if posting.boots else PostingState.POSTED
            assert state is wanted


@given(st.lists(st.floats(1, 1000), min_size=1, max_size=9), st.floats(-50, 50))
def test_the_balance_moves_with_its_boots(values, shift):
    """Every boot later by the same time makes the balance later by that time."""
    moved = pseudo_median([value + shift for value in values])
    assert abs(moved - pseudo_median(values) - shift) < 1e-9
    assert min(values) <= pseudo_median(values) <= max(values)


def test_one_bad_boot_among_five_hardly_moves_the_balance():
    assert abs(pseudo_median([60.0, 60.4, 59.8, 60.2, 240.0]) - 60.2) < 0.3


def test_demo_book_tells_the_demo_story(demo):
    """One change wins nothing, one makes it worse and is struck out; some 75 s become 54."""
    job, *_ = read_jobs(demo)
    book = keep_book(job, Measure.SETTLED)
    assert 70 < book.opening.value < 79
    assert 50 < book.closing.value < 57
    verdicts = [str(line.shift.verdict) for line in book.lines if line.shift]
    assert verdicts == ["saved", "saved", "unproven", "lost", "saved"]
    # What was put back is the state it was in before: nothing was saved by that.
    swap, back = book.lines[4:6]
    assert (back.same_as, back.balance) == (3, book.lines[3].balance)
    assert not swap.counts
    assert book.lost_units < 5  # of 39 that the swap file lost
    assert state_of(job, job.postings[3]) is PostingState.STRUCK_OUT
    assert in_book_units(book.closing.value, Measure.SETTLED) == book.closing.units
    aside = [boot for boot in job.boots if not boot.counts]
    assert [boot.set_aside for boot in aside] == ["updates were installing"]
    assert len(readings_in(job.postings[1].boots, Measure.SETTLED)) == 4
