"""The statement's first page: what came of it in everyday words, and nothing that is not so."""

import re
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given

from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.pages.owners_page import Outcome, owners_page
from plucky_ledger.wording import language
from plucky_ledger.wording.owners_page import owners_page_in_words
from tests.helpers.strategies import jobs

DAY = datetime(2026, 11, 12, 8, 0, tzinfo=UTC)
OF_THE_BOOK = re.compile(
    r"CPU·s|\bpost(ed|ing)|pencil|balance|settle[ds]|struck|\bround\b|verdict|\d to \d"
    r"|Buchung|vorgemerkt|Saldo|zur Ruhe|Runde|\d bis \d",
    re.IGNORECASE,
)
CLOCK = {"entry_id": "tideclock", "what": "TideClock Sync", "kind": ChangeKind.STARTUP_ENTRY}


def boots(figures, measure=Measure.SETTLED, day=DAY):
    return tuple(
        Boot(
            number=round(figure * 1000) + place,
            started_at=day + timedelta(hours=place),
            how=How.RECORDED,
            readings={measure: Reading(figure)},
        )
        for place, figure in enumerate(figures)
    )


def job(before, *postings):
    return Job(
        number=1,
        card=Card("0001", "Chandlery PC"),
        facts=Facts(),
        taken_in_at=DAY,
        opening_boots=boots(before),
        postings=postings,
    )


def posting(number, after, *changes, strikes_out=None):
    at = DAY + timedelta(days=number)
    return Posting(
        number=number,
        changes=changes or (Change(**CLOCK, new_state=EntryState.OFF),),
        posted_at=at,
        strikes_out=strikes_out,
        boots=boots(after, day=at),
    )


def page_of(made, measure=Measure.SETTLED, decided=None):
    return owners_page(made, measure, decided or {})


def said(page):
    words = owners_page_in_words(page)
    return "\n".join(
        [
            words.headline,
            words.how_sure,
            *words.changed,
            *words.left_on,
            *words.open_points,
            *(text for pair in words.advised for text in pair),
            *(f"{bar.name} {bar.text}" for bar in words.bars),
        ]
    )


@pytest.mark.parametrize(
    ("before", "after", "headline"),
    [
        (
            (62.1, 61.8, 62.4, 62.0),
            (36.2, 36.4, 35.9, 36.1),
            "Your PC is ready 26 s sooner: 36 s instead of 62 s (42 % less).",
        ),
        (
            (20.1, 20.2, 20.0, 20.1),
            (24.3, 24.2, 24.4, 24.3),
            "Your PC is ready 4.2 s later: 24.3 s instead of 20.1 s (21 % more).",
        ),
        (
            (20.1, 20.2, 20.0, 20.1, 20.1),
            (20.1, 20.0, 20.2, 20.1, 20.1),
            "Your PC is ready as quickly as before: after 20.1 s.",
        ),
        (
            (20.1, 26.2, 22.0),
            (19.1, 25.2, 21.0),
            "It is not sure yet whether your PC is ready sooner: 22.6 s before, 21.6 s now.",
        ),
    ],
)
def test_the_headline_says_what_came_of_it(before, after, headline):
    page = page_of(job(before, posting(1, after)))
    assert said(page).splitlines()[0] == headline
    assert f"{len(before)} starts before and {len(after)} starts now" in said(page)


def test_without_anything_to_compare_the_page_says_that():
    assert "Nothing was measured yet." in said(page_of(job(())))
    once = page_of(job((61.0, 61.2, 60.8)))
    assert "Your PC is ready 61 s after it was switched on." in said(once)
    assert "Measured over 3 starts, before anything was changed." in said(once)
    back = Change(**CLOCK, new_state=EntryState.ON, put_back=True)
    undone = job((61.0, 61.2), posting(1, (51.0, 51.1)), posting(2, (61.1,), back, strikes_out=1))
    assert page_of(undone).outcome is Outcome.AS_IT_CAME
    assert "your PC is as it came" in said(page_of(undone))
    assert page_of(undone).changed == ()


def test_a_change_is_told_once_and_a_question_is_no_reason():
    first = Change(**CLOCK, new_state=EntryState.LATER, why="may wait")
    then = Change(**CLOCK, new_state=EntryState.OFF, why="does anybody read it?")
    told = said(page_of(job((61.0, 61.2), posting(1, (55.0,), first), posting(2, (51.0,), then))))
    assert told.count("TideClock Sync") == 1
    assert "TideClock Sync no longer starts by itself\n" in told
    kept = {
        name: Decided(
            entry_id=name,
            decision=decision,
            decided_at=DAY,
            name=name,
            reason=reason,
        )
        for name, decision, reason in (
            ("Harbour Guard", Decision.KEEP, "protects the PC"),
            ("Quay Chart", Decision.KEEP, "who needs it?"),
            ("Foghorn", Decision.OFF, "too loud"),
        )
    }
    told = said(page_of(job((61.0, 61.2)), decided=kept))
    assert "Harbour Guard: protects the PC" in told
    assert "Quay Chart" not in told
    assert "Foghorn" not in told


def test_what_is_not_settled_yet_is_said():
    due = posting(1, (51.0, 51.1)), replace(posting(2, ()), posted_at=DAY + timedelta(days=2))
    assert "count from the next restart on" in said(page_of(job((61.0, 61.2), *due)))
    planned = replace(posting(2, ()), posted_at=None)
    one_day = replace(posting(1, ()), boots=boots((51.0, 51.1)))
    told = said(page_of(job((61.0, 61.2), one_day, planned)))
    assert "planned and not made yet" in told
    assert "on one day" in told


def test_work_is_told_as_time_where_there_is_a_time():
    made = job((61.0, 61.2), posting(1, (51.0, 51.1)))
    assert page_of(made, Measure.CPU_WORK).measure is Measure.SETTLED


@given(jobs())
def test_no_word_of_the_book_and_no_interval_is_on_it(made):
    for spoken in ("en", "de"):
        language.use(spoken)
        try:
            for measure in Measure:
                page = page_of(made, measure)
                names = "|".join(
                    re.escape(text)
                    for change in page.changed
                    for text in (change.what, change.why)
                    if text
                )
                told = re.sub(names, "", said(page)) if names else said(page)
                assert not OF_THE_BOOK.search(told), told
        finally:
            language.use("en")
