"""Job files in words: what was taken in, and what two benches say differently."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.pages.job_file import Difference, FieldDifference, PartKind
from plucky_ledger.wording.figures import day_and_time, seconds
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.safe import shown

_KINDS: Mapping[PartKind, str] = {
    PartKind.CARD: N_("Job card"),
    PartKind.ADVICE: N_("Advice on the statement"),
    PartKind.TURNS: N_("Boots in turns"),
    PartKind.POSTING: N_("Posting"),
    PartKind.BOOT: N_("Boot"),
    PartKind.DECISION: N_("Decision"),
    PartKind.TYPED: N_("Typed entry"),
    PartKind.ASIDE: N_("Program left out"),
}
_FIELDS: Mapping[str, str] = {
    "title": N_("name"),
    "owner": N_("owner"),
    "complaint": N_("reported problem"),
    "decision": N_("decision"),
    "reason": N_("reason"),
    "finding": N_("finding"),
    "set_aside": N_("set aside"),
    "marks": N_("marks"),
    "changes": N_("changes"),
    "posted_at": N_("posted"),
    "strikes_out": N_("puts back"),
    "posting": N_("line of the book"),
    "advised": N_("advice"),
    "turns": N_("turns"),
}
NOTHING = "–"


@dataclass(frozen=True)
class DifferenceWords:
    """One part that both changed, in words."""

    what: str
    ours: str
    theirs: str


def difference_in_words(found: Difference) -> DifferenceWords:
    """What it is about, and what each side says of it."""
    name = found.name
    if found.kind is PartKind.BOOT:
        name = _instant(name)
    what = " · ".join(filter(None, (say(_KINDS[found.kind]), shown(name))))
    return DifferenceWords(
        what,
        "; ".join(_side(one, one.ours) for one in found.fields),
        "; ".join(_side(one, one.theirs) for one in found.fields),
    )


def _side(field: FieldDifference, value: object) -> str:
    name = say(_FIELDS[field.field]) if field.field in _FIELDS else field.field
    return say("{name}: {value}", name=name, value=_value(field.field, value))


def _value(field: str, value: object) -> str:
    if value is None or value == "":
        return NOTHING
    if field == "decision" and value in set(Decision):
        return label(Decision(str(value)))
    if field == "marks" and isinstance(value, Mapping):
        marks = (f"{label(Mark(name))} {seconds(float(at))}" for name, at in value.items())
        return ", ".join(marks) or NOTHING
    if field == "changes" and isinstance(value, list):
        return ", ".join(shown(str(change.get("what", ""))) for change in value) or NOTHING
    if field == "posted_at":
        return _instant(str(value))
    if isinstance(value, str):
        return shown(value)
    return say("other") if isinstance(value, Mapping | list) else shown(str(value))


def _instant(text: str) -> str:
    try:
        return day_and_time(datetime.fromisoformat(text))
    except ValueError:
        return shown(text)


def exported(path: str) -> str:
    """Where a job was written."""
    return say("The job is in {path}, whole. Another bench imports it from there.", path=path)


def taken_in(title: str, label_here: str, brought: int | None) -> str:
    """What came of a job file. ``brought`` counts what was new or newer; None for a new job."""
    if brought is None:
        return say("{title} is taken in as job {label}.", title=shown(title), label=label_here)
    if not brought:
        return say("{title}: nothing in it that is not here already.", title=shown(title))
    return say_n(
        "{title}: {n} thing was new or newer, and is in the book.",
        "{title}: {n} things were new or newer, and are in the book.",
        brought,
        title=shown(title),
    )


def choose_first(conflicts: int) -> str:
    """What to do where both changed the same."""
    return say_n(
        "{n} thing was changed here and in the file. Choose which stays with --keep here or "
        "--keep file. Nothing was changed.",
        "{n} things were changed here and in the file. Choose which stay with --keep here or "
        "--keep file. Nothing was changed.",
        conflicts,
    )
