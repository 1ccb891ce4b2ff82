"""A job in parts that are the same in every ledger, and two of the same job brought together.

A part is told from others by its identity, and two states of it by their digests. Each knows the
digests of what it was before, so that what one bench went on with is no conflict with what the
other still has: only what both changed is, and somebody chooses. Merging again what was merged
changes nothing.
"""

import hashlib
import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any

Content = Mapping[str, Any]
"""What a part's JSON holds."""
GONE = ""
"""Content of a part that was there and was taken away."""


class Side(StrEnum):
    """Which of two is meant."""

    OURS = "ours"
    THEIRS = "theirs"


def canonical(content: Content) -> str:
    """Content as it is held against other content: JSON with its names in order."""
    return json.dumps(content, sort_keys=True, ensure_ascii=False)


@dataclass(frozen=True, kw_only=True)
class Part:
    """One thing of a job: its card, a posting, a boot, a decision …"""

    identity: str
    content: str
    """What somebody decides about: JSON with sorted keys, or ``GONE``."""
    derived: str = ""
    """What follows from other things, or differs from ledger to ledger: no conflict. JSON."""
    earlier: frozenset[str] = field(default_factory=frozenset)
    """Digests of what its content was before."""

    @property
    def digest(self) -> str:
        """SHA-256 of the content, in hexadecimal."""
        return hashlib.sha256(self.content.encode()).hexdigest()

    @property
    def known(self) -> frozenset[str]:
        """Digests of all that it was and is."""
        return self.earlier | {self.digest}


@dataclass(frozen=True)
class Conflict:
    """A part that both changed since they were the same."""

    ours: Part
    theirs: Part

    @property
    def identity(self) -> str:
        return self.ours.identity


@dataclass(frozen=True)
class Merged:
    """What comes of bringing two together."""

    parts: Mapping[str, Part]
    """By identity, those that are gone among them."""
    conflicts: tuple[Conflict, ...]
    """What was chosen; without a choice ours is kept."""
    taken: tuple[Part, ...]
    """What comes from them: new to us, or newer than ours."""


def merge(
    ours: Mapping[str, Part],
    theirs: Mapping[str, Part],
    chosen: Mapping[str, Side] | None = None,
) -> Merged:
    """Bring two of the same job together. ``chosen`` says which side of a conflict stays."""
    parts, conflicts, taken = dict(ours), [], []
    for identity, other in theirs.items():
        own = ours.get(identity)
        if own is None:
            parts[identity] = other
            if other.content != GONE:
                taken.append(other)
            continue
        newer = _newer(own, other)
        in_conflict = newer is None
        if in_conflict:
            conflicts.append(Conflict(own, other))
            newer = (chosen or {}).get(identity, Side.OURS)
        kept = other if newer is Side.THEIRS else own
        parts[identity] = _knowing_both(kept, own, other, chosen=in_conflict)
        if kept is other and kept.digest != own.digest:
            taken.append(kept)
    return Merged(parts, tuple(conflicts), tuple(taken))


def _newer(own: Part, other: Part) -> Side | None:
    """Which side went on from the other; ours where they are the same, None where both did."""
    if own.digest == other.digest:
        return Side.OURS
    went_on = {
        Side.OURS: other.digest in own.earlier,
        Side.THEIRS: own.digest in other.earlier,
    }
    if all(went_on.values()):  # there and back: who knows all of what the other does is newer
        went_on = {Side.OURS: own.known > other.known, Side.THEIRS: other.known > own.known}
    return next((side for side, is_so in went_on.items() if is_so), None)


def _knowing_both(kept: Part, own: Part, other: Part, *, chosen: bool) -> Part:
    known = own.known | other.known
    if chosen:  # newer than either, also where both were what the other is now
        known |= {hashlib.sha256("".join(sorted(known)).encode()).hexdigest()}
    return replace(kept, earlier=known - {kept.digest})


def of_kind(parts: Mapping[str, Part], kind: str) -> Iterator[Part]:
    """Parts that are there whose identity begins with a kind, such as "boot"."""
    return (
        part
        for identity, part in parts.items()
        if identity.partition(":")[0] == kind and part.content != GONE
    )
