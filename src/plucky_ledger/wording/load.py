"""The Load lens in words."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.boots.attribution import OwnerKind
from plucky_ledger.core.boots.boot import How
from plucky_ledger.pages.load import Amounts, By, LoadPage, LoadRow, Span
from plucky_ledger.wording.entries import processes_n
from plucky_ledger.wording.figures import number, percent, seconds, size
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.safe import shown

LITTLE_CPU_SECONDS = 0.095
"""Less than a tenth is told in hundredths: in the last seconds there is little of anything."""
LEAST_WRITTEN = 1e5
"""Bytes written below which nothing is said of them."""
ADMINISTRATOR = 0
LEAST_MEMORY = 1e6
"""Bytes below which a difference in memory is not worth a word."""
NAMED_ENTRIES = 2


@dataclass(frozen=True)
class LoadWords:
    """One row in words."""

    name: str
    remark: str
    """What is special about it: whose it is, whether anybody knows it, why it does not count."""
    about: str
    """What it is: description, package, path, user."""
    figures: tuple[str, str, str, str]
    """CPU·s, memory held, read, processes."""
    written: str
    """What it wrote; empty where that is nothing."""

    def has(self, wanted: str) -> bool:
        """Whether a text is anywhere in its words."""
        return wanted.casefold() in f"{self.name} {self.remark} {self.about}".casefold()


_NAMES: Mapping[OwnerKind, str] = {
    OwnerKind.ENTRY: N_("an entry that is not listed"),
    OwnerKind.SYSTEM: N_("the system and the session"),
    OwnerKind.ASIDE: N_("measuring, and programs left out"),
    OwnerKind.UNEXPLAINED: N_("unexplained"),
}
_EXPLAINED: Mapping[OwnerKind, str] = {
    OwnerKind.SYSTEM: N_("the kernel, and programs that no startup entry started"),
    OwnerKind.ASIDE: N_("the recorder, and the programs left out with a reason"),
    OwnerKind.UNEXPLAINED: N_("interrupts, the kernel's own reads, programs too short to be seen"),
}


CHOICES: Mapping[type[StrEnum], Mapping[StrEnum, str]] = {
    Span: {
        Span.STARTUP: N_("until settled"),
        Span.AT_REST: N_("at rest"),
        Span.WHOLE: N_("whole recording"),
        Span.NOW: N_("now"),
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
    bytes_read = read if row.read_known else say("unknown")
    written = row.amounts.bytes_written
    return LoadWords(
        name=shown(row.name) if row.name else say(_NAMES[row.kind]),
        remark=shown(" · ".join(_remarks(row))),
        about=shown(" · ".join(part for part in _about(row) if part)),
        figures=(cpu, memory, bytes_read, processes),
        written=say("{size} written", size=size(written)) if written >= LEAST_WRITTEN else "",
    )


def spoken_cells(words: LoadWords) -> tuple[str, ...]:
    """What stands in each column, for who cannot see it: with units."""
    cpu, memory, read, processes = words.figures
    return (
        ", ".join(part for part in (words.name, words.remark, words.about) if part),
        say("{cpu} CPU·s", cpu=cpu),
        memory,
        ", ".join(part for part in (read, words.written) if part),
        say("{n} processes", n=processes) if processes != "1" else say("1 process"),
    )


def figures(amounts: Amounts) -> tuple[str, str, str, str]:
    """CPU·s, memory held, read and processes."""
    return (
        number(amounts.cpu_seconds, 2 if 0 < amounts.cpu_seconds < LITTLE_CPU_SECONDS else 1),
        size(amounts.memory_bytes),
        size(amounts.bytes_read),
        number(amounts.processes),
    )


def _remarks(row: LoadRow) -> Iterator[str]:
    if row.measuring:
        yield say("measuring")
    elif row.outside and row.program:
        yield say("left out: {why}", why=row.aside_because or say("started by such a program"))
    elif row.outside:
        yield say("not in the sums")
    if row.started_by:
        more = len(row.started_by) - NAMED_ENTRIES
        names = ", ".join(row.started_by[:NAMED_ENTRIES])
        if row.started_by != (row.name,):
            entries = say("{names} and {n} more", names=names, n=more) if more > 0 else names
            yield say("belongs to {entries}", entries=entries)
        else:
            yield say("a startup entry")
    if row.new_since_visit:
        yield say("new since the last visit")
    if row.unknown_here:
        yield say("unknown to this workshop")
    if row.stock_has_none:
        yield say("not in the stock profile")
    elif row.more_than_stock:
        yield say("{n} more than stock", n=row.more_than_stock)


def _about(row: LoadRow) -> Iterator[str]:
    entry = row.entry
    if not row.program and entry is None:
        yield say(_EXPLAINED[row.kind]) if row.kind in _EXPLAINED else ""
        return
    if entry is not None:
        yield entry.description
        yield entry.package
    yield row.command or (say("part of the kernel") if row.program else "")
    if row.users:
        users = ", ".join(str(user) for user in row.users if user != ADMINISTRATOR)
        if ADMINISTRATOR in row.users:
            yield say("as the administrator")
        if users:
            yield say("user {users}", users=users)


def sums_in_words(page: LoadPage) -> str:
    """The sums without what the measurement itself caused."""
    cpu, memory, read, _ = figures(page.sums)
    written = size(page.sums.bytes_written)
    used, held = say("{cpu} CPU·s", cpu=cpu), say("{size} held", size=memory)
    if page.cpu_seconds_there > 0 and page.memory_bytes_there > 0:
        share = percent(page.sums.cpu_seconds / page.cpu_seconds_there)
        used = say("{cpu} CPU·s ({share} of the cores)", cpu=cpu, share=share)
        share = percent(page.sums.memory_bytes / page.memory_bytes_there)
        held = say("{size} held ({share} of the memory)", size=memory, share=share)
    moved = say("{size} read, {written} written", size=read, written=written)
    return " · ".join((used, held, moved, processes_n(page.sums.processes)))


LEAST_UNEXPLAINED = 0.005
"""Share from which something is shown as not accounted for: a smaller one reads as 0 %."""


def summary(page: LoadPage) -> str:
    """What the list covers, and how much of it is unexplained."""
    start, end = number(page.span[0]), number(page.span[1])
    shared = say("Memory shared by programs is divided among them.")
    if page.how is How.AT_REST:
        covers = say(
            "A reading at rest: {what}, {start} to {end} s after the start.",
            what=_counts(page),
            start=start,
            end=end,
        )
        return f"{covers} {shared}"
    cpu, read = page.unexplained
    covers = say("{start} to {end} s: {what}.", what=_counts(page), start=start, end=end)
    left = say("All CPU and disk use is accounted for.")
    if max(cpu, read) >= LEAST_UNEXPLAINED:
        left = say(
            "Up to then {cpu} of the CPU work and {read} of what was read is not accounted for.",
            cpu=percent(cpu),
            read=percent(read),
        )
    return f"{covers} {left} {shared}"


def summary_of_now(page: LoadPage, paused: bool) -> str:
    """What the list of now covers."""
    length = seconds(page.span[1] - page.span[0], 0)
    covers = say("The last {length}: {what}.", length=length, what=_counts(page))
    own = say("The cost of measuring is hatched and not in the sums.")
    return f"{say('Paused.')} {covers} {own}" if paused else f"{covers} {own}"


def _counts(page: LoadPage) -> str:
    """How many processes of how many programs there are, and how many more programs were."""
    inside = [row for row in page.rows if not row.outside]
    there = sum(row.amounts.processes > 0 for row in inside)
    if page.by is By.PROGRAM:
        what = say_n("{n} program", "{n} programs", there)
        gone = len(inside) - there
        processes = processes_n(page.sums.processes)
        if gone:
            return say_n(
                "{processes} of {what} at its end, {n} program more had ended",
                "{processes} of {what} at its end, {n} programs more had ended",
                gone,
                what=what,
                processes=processes,
            )
        return say("{processes} of {what} at its end", what=what, processes=processes)
    return say_n("{n} row", "{n} rows", len(page.rows))


def put_on_the_list(name: str, searched: bool) -> str:
    """What came of looking a program up."""
    if searched:
        return say("{name} is on the look-up list; your browser searches for it.", name=shown(name))
    return say(
        "{name} is on the look-up list (Ctrl+K). Set a search address there to have your browser "
        "search for it.",
        name=shown(name),
    )


def stock_in_words(page: LoadPage) -> str:
    """How many processes more than the stock profile has; empty without one."""
    extra, name = page.extra, shown(page.profile)
    if extra is None:
        return ""
    number_of = processes_n(abs(extra.processes))
    if extra.processes > 0:
        sentences = [say("{number} more at rest than “{name}”.", number=number_of, name=name)]
    elif extra.processes < 0:
        sentences = [say("{number} fewer at rest than “{name}”.", number=number_of, name=name)]
    else:
        sentences = [say("As many processes at rest as “{name}”.", name=name)]
    if extra.entries:
        sentences.append(
            say_n(
                "{n} startup entry here is not there.",
                "{n} startup entries here are not there.",
                len(extra.entries),
            )
        )
    if abs(extra.memory_bytes) >= LEAST_MEMORY:
        held = size(abs(extra.memory_bytes))
        more = extra.memory_bytes > 0
        sentences.append(
            say("{size} more held.", size=held) if more else say("{size} less held.", size=held)
        )
    return " ".join(sentences)


def nothing_watched(page: LoadPage) -> str:
    """Why there is nothing to show; empty when there is."""
    if page.rows:
        return ""
    return say(
        "This boot was {how}, so no programs were recorded. Record a boot on the PC to see them.",
        how=label(page.how),
    )
