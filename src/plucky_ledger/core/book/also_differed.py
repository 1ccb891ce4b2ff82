"""What else differed between two states: who worked in all boots of one and in none of the other.

It is held against the shift by what it did: so much work, and no more, can be its part. A shift
that it explains is not stamped as the change's.
"""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from statistics import median

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.work import KEPT_CPU_SECONDS, Worked
from plucky_ledger.core.values.measures import Measure

LEAST_CPU_SECONDS = 1.5
"""So much more than what is kept of a boot at all, that to be missing means not to have worked."""
FEWEST_BOOTS = 2
MEGABYTE = 1e6
OF_CPU = frozenset({Measure.READY, Measure.SETTLED, Measure.SYSTEM_UP, Measure.CPU_WORK})


@dataclass(frozen=True)
class AlsoDiffered:
    """One that worked on one side alone, and was not changed."""

    worked: Worked
    """As it typically did."""
    before: bool
    """It worked before, and not after; otherwise the other way round."""

    def explains(self, measure: Measure, shift: float) -> bool:
        """Whether a shift may be no more than its work: as long as it took one core, at most."""
        amount = _amount(self.worked, measure)
        gone = -amount if self.before else amount
        return amount > 0 and gone * shift > 0 and abs(shift) <= amount


def also_differed(
    before: Sequence[Boot], after: Sequence[Boot], changed: Collection[str]
) -> tuple[AlsoDiffered, ...]:
    """Who worked on one side alone, who most first. ``changed`` are the ids of the entries by which
    the states differ.

    What starts only where somebody asks for it is left out: it may be gone because of the change.
    """
    sides = [
        [_until_settled(boot) for boot in boots if boot.context.worked] for boots in (before, after)
    ]
    if min(map(len, sides)) < FEWEST_BOOTS:
        return ()
    found = [
        AlsoDiffered(worked, before=place == 0)
        for place, (here, there) in enumerate((sides, sides[::-1]))
        for others in [{_who(other) for boot in there for other in boot}]
        for worked in _in_all(here)
        if worked.by_itself and worked.entry_id not in changed and _who(worked) not in others
    ]
    return tuple(sorted(found, key=lambda one: -one.worked.cpu_seconds))


def _until_settled(boot: Boot) -> list[Worked]:
    return [one for one in boot.context.worked if one.cpu_seconds >= KEPT_CPU_SECONDS]


def _in_all(boots: Sequence[Sequence[Worked]]) -> list[Worked]:
    by_whom: dict[tuple[str, str], list[Worked]] = {}
    for boot in boots:
        for one in boot:
            by_whom.setdefault(_who(one), []).append(one)
    found = []
    for one in boots[0]:
        each = by_whom[_who(one)]
        typical = median(other.cpu_seconds for other in each)
        if len(each) >= len(boots) and typical >= LEAST_CPU_SECONDS:
            found.append(sorted(each, key=lambda other: other.cpu_seconds)[len(each) // 2])
    return found


def _who(worked: Worked) -> tuple[str, str]:
    """By what it is the same in another boot: the entry, or the name of a program of none."""
    return worked.entry_id, "" if worked.entry_id else worked.name


def _amount(worked: Worked, measure: Measure) -> float:
    """The most that it can be of a figure, in the measure's unit."""
    if measure in OF_CPU:
        return worked.cpu_seconds
    if measure is Measure.DISK_READ:
        return worked.bytes_read / MEGABYTE
    return worked.memory_bytes / MEGABYTE if measure is Measure.MEMORY_HELD else 0.0
