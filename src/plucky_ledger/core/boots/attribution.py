"""Attribution of CPU and disk work: every program run belongs to an entry, the system, or what is
set aside.

By control group first, then by its parent, and within a session by its command line. Work that no
program run accounts for is unexplained; all parts together add up to the machine's counters.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from plucky_ledger.core.boots.grid import ReadingsGrid
from plucky_ledger.core.boots.init_scripts import started_as
from plucky_ledger.core.boots.programs import ProgramRun, parents_of
from plucky_ledger.core.boots.samples import Floats, Samples
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.entries.commands import CommandLine, likeness, unwrapped
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.kinds import (
    FIRST_PERSON,
    KINDS,
    Switcher,
    another_person,
    switched_by,
    unit_of,
)
from plucky_ledger.core.pc.arming import NIGHT_SHIFT

KERNEL_THREADS = 2
"""Pid of the kernel's own program, whose children the others of the kernel are."""
WORD_FOR_WORD = 3
"""Likeness of two commands with the same arguments; ``likeness`` in commands.py."""
SURE_ENOUGH = 2
"""Likeness from which a command line is taken for an entry's."""


class OwnerKind(StrEnum):
    """Who a program run can belong to."""

    ENTRY = "entry"
    SYSTEM = "system"
    ASIDE = "aside"
    UNEXPLAINED = "unexplained"


@dataclass(frozen=True)
class Owner:
    """Who a program run belongs to."""

    kind: OwnerKind
    entry_id: str = ""


SYSTEM = Owner(OwnerKind.SYSTEM)
ASIDE = Owner(OwnerKind.ASIDE)
UNEXPLAINED = Owner(OwnerKind.UNEXPLAINED)


def owners_of(
    runs: tuple[ProgramRun, ...],
    entries: tuple[StartupEntry, ...],
    aside: frozenset[str] = frozenset(),
) -> dict[int, Owner]:
    """Owner of every run, by the run's number. ``aside`` are names of programs set aside."""
    group_owner = _by_group(entries)
    commands = [
        (entry.entry_id, command)
        for entry in entries
        if not KINDS[entry.kind].hosted and not another_person(entry.entry_id)
        for command in _commands_of(entry)
    ]
    by_name: dict[str, list[tuple[str, CommandLine]]] = {}
    for entry_id, command in commands:
        by_name.setdefault(command.name, []).append((entry_id, command))
    scripts = {
        name: of_scripts
        for name, listed in by_name.items()
        if (of_scripts := [one for one in listed if _is_script(one[0])])
    }
    hosted = _hosted(entries)
    parents = parents_of(runs)
    owners: dict[int, Owner] = {}
    for run in sorted(runs, key=lambda run: run.started):
        parent = parents.get(run.run)
        gone = run.own or run.name in aside or is_of_the_night(run)
        if gone or (parent is not None and owners.get(parent.run) == ASIDE):
            owners[run.run] = ASIDE
        else:
            owners[run.run] = (
                hosted(run, parent, owners)
                or group_owner(run.control_group)
                or _by_command(run, by_name)
                or _by_script(run, scripts)
                or _by_parent(run, parent, owners)
                or SYSTEM
            )
    return owners


def _is_script(entry_id: str) -> bool:
    return switched_by(entry_id) is Switcher.INIT_SCRIPTS


def _commands_of(entry: StartupEntry) -> Iterator[CommandLine]:
    """The command that starts it, and the one by which an init system runs that."""
    if entry.command:
        yield unwrapped(entry.command)
    if (script := started_as(entry)) is not None:
        yield script


def is_of_the_night(run: ProgramRun) -> bool:
    """Whether it is what goes through a night shift: it is there in no other boot."""
    return NIGHT_SHIFT in run.control_group.split("/")


def _hosted(
    entries: tuple[StartupEntry, ...],
) -> Callable[[ProgramRun, ProgramRun | None, Mapping[int, Owner]], Owner | None]:
    """A function that finds the entry behind a run in the control group of what started it.

    By its command, word for word, or else its parent's in the same group: what starts it would be
    charged with it otherwise.
    """
    by_name: dict[str, list[tuple[str, CommandLine, int]]] = {}
    for entry in entries:
        if KINDS[entry.kind].hosted and entry.command and not another_person(entry.entry_id):
            command = unwrapped(entry.command)
            least = SURE_ENOUGH if KINDS[entry.kind].given_more else WORD_FOR_WORD
            by_name.setdefault(command.name, []).append((entry.entry_id, command, least))
    ids = {entry_id for found in by_name.values() for entry_id, _, _ in found}

    def owner(
        run: ProgramRun, parent: ProgramRun | None, owners: Mapping[int, Owner]
    ) -> Owner | None:
        if not ids:
            return None
        command = unwrapped(run.command)
        sure = {
            entry_id
            for entry_id, listed, least in by_name.get(command.name, ())
            if likeness(listed, command) >= least
        }
        if len(sure) == 1:
            return Owner(OwnerKind.ENTRY, sure.pop())
        above = owners.get(parent.run) if parent is not None else None
        if parent is not None and above is not None and above.entry_id in ids:
            return above if run.control_group == parent.control_group else None
        return None

    return owner


def _by_group(entries: tuple[StartupEntry, ...]) -> Callable[[str], Owner | None]:
    """A function that finds the entry a control group belongs to; the innermost wins."""
    entry_of_group = {entry.group: entry.entry_id for entry in entries if entry.group.strip("/")}
    # A user's manager holds the groups of everything the user runs: only its own is meant.
    containers = {
        group for group in entry_of_group if "/user@" in group and group.endswith(".service")
    }
    containers = {group for group in containers if group.count("/") <= 3}
    units = {unit_of(entry.entry_id): entry.entry_id for entry in entries if not entry.group}
    owners: dict[str, Owner | None] = {}

    def owner(group: str) -> Owner | None:
        if group not in owners:
            owners[group] = look_up(group)
        return owners[group]

    def look_up(group: str) -> Owner | None:
        at = group
        while at:
            if at in entry_of_group and (at not in containers or group in {at, f"{at}/init.scope"}):
                return Owner(OwnerKind.ENTRY, entry_of_group[at])
            name = _application(at.rpartition("/")[2])
            if name in units:
                return Owner(OwnerKind.ENTRY, units[name])
            at = at.rpartition("/")[0]
        return None

    return owner


def _application(component: str) -> str:
    """The application a group's last part names: app-NAME@autostart.service, app-NAME-123.scope."""
    if not component.startswith("app-"):
        return component
    name = component[4:].replace("\\x2d", "-")
    if name.endswith(".scope"):
        stem, _, number = name.removesuffix(".scope").rpartition("-")
        name = stem if number.isdigit() and stem else name.removesuffix(".scope")
    return name.removesuffix(".service").partition("@")[0]


def _by_command(
    run: ProgramRun, by_name: Mapping[str, list[tuple[str, CommandLine]]]
) -> Owner | None:
    """The entry whose start command this is; none where two are as likely."""
    return _like(unwrapped(run.command), by_name) if run.command else None


def _by_script(
    run: ProgramRun, by_name: Mapping[str, list[tuple[str, CommandLine]]]
) -> Owner | None:
    """The script that its process was when it came, or whose program has its name."""
    came = _like(unwrapped(run.came_as), by_name) if run.came_as else None
    return came or _like(CommandLine(run.name), by_name)


def _like(
    command: CommandLine, by_name: Mapping[str, list[tuple[str, CommandLine]]]
) -> Owner | None:
    scored = [
        (likeness(entry, command), entry_id) for entry_id, entry in by_name.get(command.name, ())
    ]
    if not scored:
        return None
    best = max(score for score, _ in scored)
    likely = list(dict.fromkeys(entry_id for score, entry_id in scored if score == best))
    several = len({entry_id for _, entry_id in scored}) > 1
    if len(likely) > 1 or (best < SURE_ENOUGH and several) or best == 0:
        return None
    return Owner(OwnerKind.ENTRY, likely[0])


def _by_parent(
    run: ProgramRun, parent: ProgramRun | None, owners: Mapping[int, Owner]
) -> Owner | None:
    if run.parent_pid <= KERNEL_THREADS or parent is None:
        return None
    owner = owners.get(parent.run)
    # A script that lets people sign in has no group of its own beside their sessions'.
    of_a_script = owner is not None and _is_script(owner.entry_id)
    if of_a_script and run.user_id >= FIRST_PERSON and run.user_id != parent.user_id:
        return None
    return owner


@dataclass(frozen=True, eq=False)
class Work:
    """Work of one owner over time: cumulative columns at the samples' instants."""

    cpu_seconds: Floats
    bytes_read: Floats


@dataclass(frozen=True, eq=False)
class Attribution:
    """All work of a boot by owner; at each instant the parts sum to the machine's counters."""

    seconds: Floats
    owners: Mapping[int, Owner]
    """By the number of the run."""
    work: Mapping[Owner, Work]
    """``UNEXPLAINED`` is always among them."""
    by_run: Mapping[int, Work]
    """By the number of the run."""

    def explained_share(self, until: float) -> tuple[float, float]:
        """Share of CPU work and of disk reads that has an owner, 0 to 1, up to an instant."""
        index = max(0, int(self.seconds.searchsorted(until, side="right")) - 1)
        cpu = {owner: work.cpu_seconds[index] for owner, work in self.work.items()}
        read = {owner: work.bytes_read[index] for owner, work in self.work.items()}
        return _share(cpu), _share(read)


def _share(parts: Mapping[Owner, float]) -> float:
    total = sum(parts.values())
    return 1.0 - parts[UNEXPLAINED] / total if total > 0 else 1.0


def attribute(timeline: Timeline, aside: frozenset[str] = frozenset()) -> Attribution | None:
    """Attribute the work of a boot; None for a boot without samples and program readings."""
    samples = timeline.samples
    if samples is None or not timeline.runs or len(samples) < 2:
        return None
    owners = owners_of(timeline.runs, timeline.entries, aside)
    cpu_total, read_total = grown(samples.cpu_seconds), grown(samples.disk_read_bytes)
    cpu, read = run_work(timeline.runs, samples, ReadingsGrid(timeline.runs, samples.seconds))
    cpu, read = fitted(cpu, cpu_total), fitted(read, read_total)
    rest = Work(cpu_total - cpu.sum(axis=0), read_total - read.sum(axis=0))
    by_run = {run.run: Work(cpu[row], read[row]) for row, run in enumerate(timeline.runs)}
    return Attribution(samples.seconds, owners, _summed(by_run, owners, rest), by_run)


def _summed(
    by_run: Mapping[int, Work], owners: Mapping[int, Owner], rest: Work
) -> dict[Owner, Work]:
    shares = {UNEXPLAINED: rest}
    for run, work in by_run.items():
        sums = shares.get(owners[run])
        shares[owners[run]] = (
            work
            if sums is None
            else Work(sums.cpu_seconds + work.cpu_seconds, sums.bytes_read + work.bytes_read)
        )
    return shares


def grown(counter: Floats) -> Floats:
    """A cumulative counter with backward steps left out."""
    return np.asarray(np.maximum.accumulate(np.maximum(counter, 0.0)))


def fitted(claims: Floats, total: Floats) -> Floats:
    """Claims of programs, cumulative in shape ``(runs, samples)``, made to fit in the counter.

    Where programs together claim more in a stretch than the counter grew (both are rounded, and
    read at slightly different instants) each gets its part of it and the rest in later stretches.
    """
    shares = np.diff(claims, axis=1, prepend=0.0)
    grown = np.diff(total, prepend=0.0)
    owed = np.zeros(len(claims))
    for at in range(len(total)):
        owed += shares[:, at]
        claimed = owed.sum()
        part = min(1.0, grown[at] / claimed) if claimed > 0 else 0.0
        shares[:, at] = owed * part
        owed -= shares[:, at]
    return np.asarray(np.cumsum(shares, axis=1))


def _heir(run: ProgramRun, ended: float, parents: Mapping[int, ProgramRun]) -> ProgramRun | None:
    """Who inherits what a run used: its parent, or the first behind those that ended in the same
    moment, which had it and handed it on. None where none of them outlived it.
    """
    seen, parent = {run.run}, parents.get(run.run)
    while parent is not None and parent.ended == ended and parent.run not in seen:
        seen.add(parent.run)  # what a recording says may go round in a circle
        parent = parents.get(parent.run)
    if parent is None or (parent.ended is not None and parent.ended <= ended):
        return None
    return parent


def run_work(
    runs: tuple[ProgramRun, ...], samples: Samples, grid: ReadingsGrid
) -> tuple[Floats, Floats]:
    """CPU seconds and bytes read of each run at each sample, shape ``(runs, samples)``.

    Cumulative; ``grid`` has the runs' readings at the samples. What children used that nobody saw
    counts for the run that inherited it; what children that were seen used counts for them alone.
    Before its first reading a run's counters are taken to have grown evenly, from zero when it
    began.
    """
    at = samples.seconds
    index_of = {run.run: row for row, run in enumerate(runs)}
    parents = parents_of(runs)
    cpu = grid.of(lambda run: run.cpu_seconds)
    inherited = grid.of(lambda run: run.children_cpu_seconds)
    read = np.nan_to_num(grid.of(lambda run: run.bytes_read))
    unseen, own_read = inherited.copy(), read.copy()
    heirs: list[tuple[int, int, int]] = []
    reaper = next((index_of[run.run] for run in runs if run.pid == 1), None)
    for row, run in enumerate(runs):
        if run.ended is None or not len(run.seconds):
            continue
        inherits = _heir(run, run.ended, parents)
        heir = index_of[inherits.run] if inherits is not None else reaper
        if heir is None or heir == row:
            continue
        gone = int(at.searchsorted(run.ended - 1e-9))
        unseen[heir, gone:] -= cpu[row, -1] + inherited[row, -1]
        own_read[heir, gone:] -= read[row, -1]
        if 0 < gone < len(at):
            heirs.append((row, heir, gone))
    unseen = np.maximum.accumulate(np.maximum(unseen, 0.0), axis=1)
    own_read = np.maximum.accumulate(np.maximum(own_read, 0.0), axis=1)
    for row, heir, gone in heirs:
        # What it did between its last reading and its end is in what its parent inherited then.
        rest = min(unseen[heir, gone] - unseen[heir, gone - 1], at[gone] - at[gone - 1])
        cpu[row, gone:] += rest
        unseen[heir, gone:] -= rest
    return cpu + unseen, own_read
