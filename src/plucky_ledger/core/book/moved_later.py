"""Work that was only moved: less of it until the PC had settled, and so much more after that."""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.work import KEPT_LATER_CPU_SECONDS, Worked

LEAST_CPU_SECONDS = KEPT_LATER_CPU_SECONDS
"""Less is not worth a word."""


@dataclass(frozen=True)
class MovedLater:
    """Work that comes later now."""

    cpu_seconds: float
    names: tuple[str, ...]
    """Whose it is, who moved most first."""
    after_sign_in: float | None
    """Seconds after sign-in at which half of it is done, by who moved most; None where nobody
    signed in."""


Key = tuple[str, str]
"""Id of the entry, empty for none, and the name."""
Workers = dict[Key, Worked]
"""Who worked in one boot."""


def moved_later(before: Sequence[Boot], after: Sequence[Boot]) -> MovedLater | None:
    """What moved from before settled to after it; None where nothing did, or nobody looked.

    The slow look of the later state is enough: what it did there is known, and that it did it
    earlier before.
    """
    looked = [boot for boot in after if boot.counts and boot.context.looked_seconds > 0]
    earlier = [boot for boot in before if boot.counts and boot.context.worked]
    if not looked or not earlier:
        return None
    looked_before = [boot for boot in earlier if boot.context.looked_seconds > 0]
    now, then = [list(map(_workers, boots)) for boots in (looked, earlier)]
    then_looked = list(map(_workers, looked_before))
    found = []
    for key in dict.fromkeys(key for workers in now for key in workers):
        gone = _until_settled(then, key) - _until_settled(now, key)
        come = _later(now, key) - (_later(then_looked, key) if then_looked else 0.0)
        if (moved := min(gone, come)) >= LEAST_CPU_SECONDS:
            found.append((moved, key))
    if not found:
        return None
    found.sort(reverse=True)
    return MovedLater(
        cpu_seconds=sum(moved for moved, _ in found),
        names=tuple(name for _, (_, name) in found),
        after_sign_in=_after_sign_in(looked, found[0][1]),
    )


def _workers(boot: Boot) -> Workers:
    return {(one.entry_id, one.name): one for one in boot.context.worked}


def _until_settled(boots: Sequence[Workers], key: Key) -> float:
    return median(one.cpu_seconds if (one := boot.get(key)) else 0.0 for boot in boots)


def _later(boots: Sequence[Workers], key: Key) -> float:
    return median(one.later_cpu_seconds if (one := boot.get(key)) else 0.0 for boot in boots)


def _after_sign_in(boots: Sequence[Boot], key: Key) -> float | None:
    found = [
        one.later_at - boot.marks[Mark.SIGNED_IN]
        for boot in boots
        if Mark.SIGNED_IN in boot.marks
        if (one := _workers(boot).get(key)) is not None and one.later_at
    ]
    return median(found) if found else None
