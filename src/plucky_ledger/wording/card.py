"""The card to time a PC by hand, in words."""

from collections.abc import Mapping

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.readings import readings_of
from plucky_ledger.core.job.job import Card as JobCard
from plucky_ledger.usecases.recording.cards import CARD_ROWS, SEEN, Card, CardRow
from plucky_ledger.wording.figures import day_and_time, with_unit
from plucky_ledger.wording.figures_table import fault_in_words
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import N_, current_locale, say, say_n
from plucky_ledger.wording.safe import shown

WHAT_IS_SEEN: Mapping[Mark, str] = {
    Mark.SIGN_IN_SHOWN: N_("Sign-in shown"),
    Mark.SIGNED_IN: N_("Signed in (Enter pressed)"),
    Mark.DESKTOP_SHOWN: N_("Desktop shown"),
    Mark.READY: N_("Ready: the desktop answers a right-click"),
}


def headings() -> tuple[str, ...]:
    """What stands above the columns of a card and of the form that takes it in."""
    return (say("Begun"), *(say(WHAT_IS_SEEN[mark]) for mark in SEEN))


def card_in_words(job: JobCard) -> Card:
    """The card for a job, ready to print."""
    about = " · ".join(filter(None, (say("job {label}", label=job.label), job.title, job.owner)))
    return Card(
        language=current_locale().replace("_", "-"),
        title=say("Starts timed by hand"),
        about=shown(about),
        steps=(
            say("Shut the PC down and wait until it is off."),
            say("Press its power button and start the stopwatch together."),
            say("Write down what the stopwatch shows as each of these is reached."),
            say("Measure three starts at least, the same way each time."),
        ),
        headings=headings(),
        rows=CARD_ROWS,
        remark=say(
            "Begun: day and time, such as 2026-11-12 08:46. Times in seconds, or as 1:12.3."
        ),
    )


def row_in_words(row: CardRow | None) -> str:
    """What a row comes to; nothing for an empty one."""
    if row is None:
        return ""
    if row.fault is not None:
        return fault_in_words(row.fault, headings()[row.at] if row.at is not None else "")
    when = day_and_time(row.started_at) if row.started_at is not None else say("now")
    readings = readings_of(row.marks, None, None)
    figures = (f"{label(one)} {with_unit(it.value, one)}" for one, it in readings.items())
    return " · ".join((when, *figures))


def taken_in(boots: int) -> str:
    """What came of it."""
    return say_n("{n} boot is in the book.", "{n} boots are in the book.", boots)
