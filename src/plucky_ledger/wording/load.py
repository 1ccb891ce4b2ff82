"""The Load lens in words."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.cost.attribution import OwnerKind
from plucky_ledger.pages.load import Amounts, By, LoadPage, LoadRow, Span
from plucky_ledger.wording.entries import processes_n
from plucky_ledger.wording.figures import number, percent, size, tenths
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.safe import shown

LEAST_MEMORY = 1e6
"""Bytes below which a difference in memory is not worth a word."""
NAMED_ENTRIES = 4


@dataclass(frozen=True)
class LoadWords:
    """One row in words."""

    name: str
    remark: str
    """What is special about it: measuring, set aside, beyond the stock profile."""
    about: str
    """Start command, path, package and what it is, in lines."""
    figures: tuple[str, str, str, str]
    """CPU·s, memory held, read, processes."""


_NAMES: Mapping[OwnerKind, str] = {
    OwnerKind.ENTRY: N_("an entry that is not listed"),
    OwnerKind.SYSTEM: N_("the system and the session"),
    OwnerKind.ASIDE: N_("measuring, and what is set aside"),
    OwnerKind.UNEXPLAINED: N_("unexplained"),
}
_EXPLAINED: Mapping[OwnerKind, str] = {
    OwnerKind.SYSTEM: N_("the kernel, and programs that no startup entry started"),
    OwnerKind.ASIDE: N_("the recorder, and the programs left out with a reason"),
    OwnerKind.UNEXPLAINED: N_("interrupts, the kernel's own reads, programs nobody saw"),
}


CHOICES: Mapping[type[StrEnum], Mapping[StrEnum, str]] = {
    Span: {
        Span.STARTUP: N_("until settled"),
        Span.AT_REST: N_("at rest"),
        Span.WHOLE: N_("whole recording"),
    },
    By: {By.PROGRAM: N_("per program"), By.ENTRY: N_("per entry")},
}
"""Every member of these enumerations has its words here; a test holds it to that."""


def choice(code: StrEnum) -> str:
    """What a choice of the lens is called."""
    return say(CHOICES[type(code)][code])


def load_in_words(row: LoadRow) -> LoadWords:
    """A row of the list in words."""
    cpu, memory, read, processes = figures(row.amounts)
    known = read if row.read_known else say("unknown")
    return LoadWords(
        name=shown(row.name) if row.name else say(_NAMES[row.kind]),
        remark=shown(_remark(row)),
        about="\n".join(shown(line) for line in _about(row) if line),
        figures=(cpu, memory, known, processes),
    )


def figures(amounts: Amounts) -> tuple[str, str, str, str]:
    """CPU·s, memory held, read and processes."""
    return (
        tenths(amounts.cpu_seconds),
        size(amounts.memory_bytes),
        size(amounts.bytes_read),
        number(amounts.processes),
    )


def _remark(row: LoadRow) -> str:
    parts = []
    if row.measuring:
        parts.append(say("measuring"))
    elif row.outside and row.program:
        why = row.aside_because or say("started by such a program")
        parts.append(say("set aside: {why}", why=why))
    elif row.outside:
        parts.append(say("not in the sums"))
    if row.more_than_stock:
        parts.append(say("{n} more than stock", n=row.more_than_stock))
    return " · ".join(parts)


def _about(row: LoadRow) -> list[str]:
    entry = row.entry
    if not row.program:
        if entry is not None:
            return [entry.command, entry.package, entry.description]
        return [say(_EXPLAINED[row.kind]) if row.kind in _EXPLAINED else ""]
    users = ", ".join(str(user) for user in row.users)
    command = row.command or say("part of the kernel")
    package = f"{entry.package} · {entry.description}" if entry and entry.package else ""
    started_by = ", ".join(row.started_by[:NAMED_ENTRIES])
    return [
        f"{command} · {say('user {users}', users=users)}",
        package,
        say("started by {entries}", entries=started_by) if started_by else "",
    ]


def sums_in_words(page: LoadPage) -> str:
    """The sums without what the measurement itself caused."""
    cpu, memory, read, _ = figures(page.sums)
    return " · ".join(
        (
            f"{cpu} CPU·s",
            say("{size} held", size=memory),
            say("{size} read", size=read),
            processes_n(page.sums.processes),
        )
    )


def summary(page: LoadPage) -> str:
    """What the list covers, and how much of it is unexplained."""
    rows = len(page.rows)
    by_program = page.by is By.PROGRAM
    what = (
        say_n("{n} program", "{n} programs", rows)
        if by_program
        else say_n("{n} row", "{n} rows", rows)
    )
    if page.how is How.AT_REST:
        return say(
            "A reading at rest: {processes} in {what}, {start} to {end} s after the start. Memory "
            "that programs share is counted in parts.",
            processes=processes_n(page.sums.processes), what=what, start=number(page.span[0]),
            end=number(page.span[1]),
        )  # fmt: skip
    cpu, read = page.unexplained
    return say(
        "{processes} in {what}, {start} to {end} s. Up to then {cpu} of the CPU work and {read} of "
        "what was read is unexplained. Memory that programs share is counted in parts.",
        processes=processes_n(page.sums.processes), what=what, start=number(page.span[0]),
        end=number(page.span[1]), cpu=percent(cpu), read=percent(read),
    )  # fmt: skip


def stock_in_words(page: LoadPage) -> str:
    """How many processes more than the stock profile has; empty without one."""
    extra, name = page.extra, shown(page.profile)
    if extra is None:
        return ""
    number_of = processes_n(abs(extra.processes))
    if extra.processes > 0:
        sentence = say("{number} more at rest than “{name}”", number=number_of, name=name)
    elif extra.processes < 0:
        sentence = say("{number} fewer at rest than “{name}”", number=number_of, name=name)
    else:
        sentence = say("As many processes at rest as “{name}”", name=name)
    parts = [sentence]
    if extra.entries:
        many = len(extra.entries)
        parts.append(say_n("{n} startup entry it has not", "{n} startup entries it has not", many))
    if abs(extra.memory_bytes) >= LEAST_MEMORY:
        held = size(abs(extra.memory_bytes))
        more = say("{size} more held", size=held)
        parts.append(more if extra.memory_bytes > 0 else say("{size} less held", size=held))
    return ", ".join(parts) + "."


def nothing_watched(page: LoadPage) -> str:
    """Why there is nothing to show; empty when there is."""
    if page.rows:
        return ""
    return say(
        "This boot was {how}, so no program was watched. Record a boot on the PC to see who uses "
        "it.",
        how=label(page.how),
    )
