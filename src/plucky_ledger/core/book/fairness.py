"""What makes a comparison of two rounds unfair, in words."""

from collections.abc import Callable

from plucky_ledger.core.book.drift import drift_between
from plucky_ledger.core.boots.boot import Boot, StartKind, counted


def concerns(before: tuple[Boot, ...], after: tuple[Boot, ...]) -> tuple[str, ...]:
    """What differs between the two rounds besides the changes; empty when nothing is known to."""
    sides = counted(before), counted(after)
    found = []
    for what, of in _CIRCUMSTANCES:
        known = [{of(boot) for boot in side} - {""} for side in sides]
        if known[0] and known[1] and known[0] != known[1]:
            found.append(f"{what} differs: {_list(known[0])} before, {_list(known[1])} after.")
    if (drift := drift_between(before, after)) is not None:
        found.append(
            f"The machine itself was {drift.in_words} after ({drift.control}): boots taken in "
            "turns, before and after, would cancel that."
        )
    found.extend(_busy(side, when) for side, when in zip(sides, ("before", "after"), strict=True))
    return tuple(sentence for sentence in found if sentence)


def boot_concerns(boot: Boot, others: tuple[Boot, ...]) -> tuple[str, ...]:
    """Why one boot should not be compared with ``others``; empty when nothing speaks against it."""
    found = []
    if boot.cut_short:
        found.append("its recording was cut short")
    if boot.context.updates_running:
        found.append("updates were installing")
    if boot.context.disk_checked:
        found.append("a disk was checked")
    if boot.context.suspended_seconds > 1:
        found.append("the PC slept meanwhile")
    if boot.context.start_kind is StartKind.RESUME:
        found.append("it is a resume, not a start")
    for what, of in _CIRCUMSTANCES:
        usual = {of(other) for other in counted(others) if other is not boot} - {""}
        if of(boot) and usual and of(boot) not in usual:
            found.append(f"{what[0].lower()}{what[1:]} differs from the other boots")
    return tuple(found)


_CIRCUMSTANCES: tuple[tuple[str, Callable[[Boot], str]], ...] = (
    ("The kernel", lambda boot: boot.context.kernel),
    ("The kind of start", lambda boot: str(boot.context.start_kind).replace("unknown", "")),
    ("The power source", lambda boot: boot.context.power_source),
    ("Who signed in", lambda boot: boot.context.user),
    ("The hardware", lambda boot: boot.context.hardware),
    ("The way of measuring", lambda boot: str(boot.how)),
)


def _busy(boots: tuple[Boot, ...], when: str) -> str:
    boots = counted(boots)
    updating = sum(boot.context.updates_running for boot in boots)
    checked = sum(boot.context.disk_checked for boot in boots)
    parts = []
    if updating:
        parts.append(f"updates were installing in {updating} of {len(boots)} boots")
    slept = sum(boot.context.suspended_seconds > 1 for boot in boots)
    if slept:
        parts.append(f"the PC slept during {slept} of {len(boots)}")
    if checked:
        parts.append(f"the disk was checked in {checked} of {len(boots)} boots")
    return f"Of the boots {when}, {' and '.join(parts)}: set them aside." if parts else ""


def _list(values: set[str]) -> str:
    return ", ".join(sorted(values))


def set_aside_remarks(before: tuple[Boot, ...], after: tuple[Boot, ...]) -> tuple[str, ...]:
    """One sentence per boot that was left out, with its reason."""
    return tuple(
        f"A boot {when} is set aside: {boot.set_aside}."
        for boots, when in ((before, "before"), (after, "after"))
        for boot in boots
        if not boot.counts
    )
