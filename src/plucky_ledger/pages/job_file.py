"""What two benches say differently of the same job, side by side."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.job.parts import Conflict, Part


class PartKind(StrEnum):
    """What a part is about."""

    CARD = "card"
    ADVICE = "advice"
    TURNS = "turns"
    POSTING = "posting"
    BOOT = "boot"
    DECISION = "decision"
    TYPED = "typed"
    ASIDE = "aside"


@dataclass(frozen=True)
class FieldDifference:
    """One field of a part as it is on each side; None where that side has not got it."""

    field: str
    ours: object
    theirs: object


@dataclass(frozen=True)
class Difference:
    """One part that both changed."""

    identity: str
    kind: PartKind
    name: str
    """What it is called; for a boot the instant it began, for a posting its first change."""
    fields: tuple[FieldDifference, ...]


def difference(conflict: Conflict) -> Difference:
    """A conflict with its fields that differ."""
    ours, theirs = _content(conflict.ours), _content(conflict.theirs)
    kind = PartKind(conflict.identity.partition(":")[0])
    names = dict.fromkeys([*ours, *theirs])
    fields = tuple(
        FieldDifference(name, ours.get(name), theirs.get(name))
        for name in names
        if ours.get(name) != theirs.get(name) and name != "decided_at"
    )
    return Difference(conflict.identity, kind, _name(kind, conflict, ours or theirs), fields)


def _content(part: Part) -> Mapping[str, object]:
    content: dict[str, object] = json.loads(part.content or "{}")
    return content


def _name(kind: PartKind, conflict: Conflict, content: Mapping[str, object]) -> str:
    if kind is PartKind.BOOT:
        return str(content.get("started_at", ""))
    if kind is PartKind.POSTING:
        changes = content.get("changes")
        first = changes[0]["what"] if isinstance(changes, list) and changes else ""
        return str(content.get("title") or first)
    return str(content.get("name") or conflict.identity.partition(":")[2])
