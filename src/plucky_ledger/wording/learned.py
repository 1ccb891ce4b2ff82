"""What was learned of programs, in words."""

from collections.abc import Sequence

from plucky_ledger.core.book.learned import ProgramLearned
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.usecases.reading.learned import LearnedElsewhere, LearnedFile
from plucky_ledger.wording.figures import between, number, tenths
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.safe import shown

SHOWN_WORKSHOPS = 3


def headings() -> tuple[str, ...]:
    """What stands above the columns of the list."""
    return (
        say("program"),
        say("package"),
        say("PCs"),
        say("settled later by"),
        say("memory"),
        say("decided"),
        say("put back"),
    )


def cells(program: ProgramLearned) -> tuple[str, ...]:
    """One row of the list."""
    return (
        shown(program.name),
        shown(program.package),
        number(program.pcs),
        _figure(program.seconds, "s"),
        _figure(program.megabytes, "MB"),
        _decided(program),
        number(program.put_back),
    )


def _figure(estimate: Estimate | None, unit: str) -> str:
    if estimate is None:
        return ""
    low, high = tenths(estimate.low), tenths(estimate.high)
    return f"{tenths(estimate.value)} {unit} ({between(low, high)})"


def _decided(program: ProgramLearned) -> str:
    return ", ".join(
        f"{label(decision)} {number(program.decided[decision])}"
        for decision in Decision
        if program.decided.get(decision)
    )


def workshop(file: LearnedFile | LearnedElsewhere) -> str:
    """Who told it: a name that nobody vouches for, or the key that signed it."""
    name = shown(file.workshop) or say("a workshop without a name")
    if file.signed_by:
        return say("{name}, signed by {key}", name=name, key=file.signed_by)
    return say("{name}, not signed", name=name)


def elsewhere_in_words(found: Sequence[LearnedElsewhere]) -> tuple[str, ...]:
    """What other workshops know of a program, one line each."""
    return tuple(
        say("{workshop}: {what}", workshop=workshop(one), what=_what(one.program))
        for one in found[:SHOWN_WORKSHOPS]
    )


def together_in_words(settled: Estimate) -> str:
    """What both say together."""
    return say(
        "settled {figure} later; four PCs of another workshop count for one of yours",
        figure=_figure(settled, "s"),
    )


def _what(program: ProgramLearned) -> str:
    parts = [say_n("on {n} PC", "on {n} PCs", program.pcs)]
    if program.seconds is not None:
        parts.append(say("settled {figure} later", figure=_figure(program.seconds, "s")))
    if decided := _decided(program):
        parts.append(decided)
    if program.put_back:
        parts.append(say_n("put back {n} time", "put back {n} times", program.put_back))
    return "; ".join(parts)


def taken_in(file: LearnedFile) -> str:
    """What came of a file."""
    return say_n(
        "{workshop} told of {n} program. It is shown beside your own, and nothing is done by it.",
        "{workshop} told of {n} programs. They are shown beside your own, and nothing is done by "
        "them.",
        len(file.programs),
        workshop=workshop(file),
    )


def handed_on(programs: int, path: str) -> str:
    """What was written."""
    return say_n(
        "What was learned of {n} program is in {path}: no owner, no PC, nothing of anybody's home.",
        "What was learned of {n} programs is in {path}: no owner, no PC, nothing of anybody's "
        "home.",
        programs,
        path=path,
    )
