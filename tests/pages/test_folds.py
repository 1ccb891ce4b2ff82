"""Boots in turns and night shifts shown as one line: nothing of them is lost."""

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import book_page
from plucky_ledger.pages.folds import FoldKind, folds_of, shown_lines
from plucky_ledger.pages.statement import statement_page
from plucky_ledger.wording.book import folded_in_words
from tests.helpers.strategies import jobs


def of_nights(job, names):
    """The job with each posting made in the night shift of a name, or by hand."""
    made = zip(job.postings, names, strict=False)
    return replace(job, postings=tuple(replace(posting, series=name) for posting, name in made))


@given(jobs(), st.lists(st.sampled_from(["", "first", "second"]), min_size=5, max_size=5))
def test_what_is_shown_as_one_line_holds_what_its_lines_held(job, names):
    page = book_page(of_nights(job, names), Measure.SETTLED)
    lines = shown_lines(page.rows)
    assert sum(line.row.saved_units for line in lines) == page.saved_units
    assert sum(line.row.lost_units for line in lines) == page.lost_units
    for kept in ("starts", "at_rest", "aside"):
        counts = [
            sum(getattr(row.boots, kept) for row in rows)
            for rows in (page.rows, [line.row for line in lines])
        ]
        assert counts[0] == counts[1]
    assert sum(len(line.row.dots) for line in lines) == sum(len(row.dots) for row in page.rows)
    last = [line.row.index for line in lines]
    assert last == sorted(last)
    assert not page.rows or last[-1] == page.rows[-1].index
    for line in lines:
        if line.fold is not None:
            assert line.row.balance == page.rows[line.fold.last].balance
            assert folded_in_words(line.row, line.fold).remark


@given(jobs())
def test_what_was_made_by_hand_stands_for_itself(job):
    """But for a PC that came back to states it was in before, three times on end."""
    rows = book_page(job, Measure.SETTLED).rows
    for fold in folds_of(rows):
        assert fold.kind is FoldKind.TURNS
        assert all(row.repeats for row in rows[fold.first : fold.last + 1])
    done = statement_page(job, Measure.SETTLED).done
    assert len(done) <= len(rows)
