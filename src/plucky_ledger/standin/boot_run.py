"""One boot of the stand-in PC: what starts when, and which entries wait for which."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from random import Random

from plucky_ledger.standin.machine import Hardware, Machine, Process
from plucky_ledger.standin.program import (
    Compute,
    Entry,
    Program,
    Read,
    Sleep,
    Stay,
    Tell,
    Write,
)

LATER_SECONDS = 120.0
"""How long after sign-in an entry set to start later begins."""
INIT_PID_GROUP = "/init.scope"


class Switch(StrEnum):
    """How an entry of the stand-in PC is set."""

    ON = "on"
    OFF = "off"
    LATER = "later"


@dataclass(frozen=True)
class Setup:
    """The state the stand-in PC is in; what is not named is as delivered."""

    switches: tuple[tuple[str, Switch], ...] = ()
    """Entry id and how it is set."""
    bigger_swap: bool = False
    updates_running: bool = False

    def of(self, entry_id: str) -> Switch:
        return dict(self.switches).get(entry_id, Switch.ON)


@dataclass(kw_only=True)
class EntryTrace:
    """What an entry did in this boot. Seconds since the kernel started."""

    entry: Entry
    waiting_from: float
    starting_from: float | None = None
    up_at: float | None = None
    ended_at: float | None = None
    result: str = ""
    restarts: int = 0


class BootRun:
    """Starts the kernel, the services, a person's sign-in, and what starts with it."""

    def __init__(
        self, hardware: Hardware, entries: Iterable[Entry], setup: Setup, rng: Random
    ) -> None:
        self.machine = Machine(hardware, rng)
        self.traces: dict[str, EntryTrace] = {}
        self._entries = tuple(entries)
        self._by_id = {entry.entry_id: entry for entry in self._entries}
        self._setup = setup
        self._seed = rng.getrandbits(64)
        self._sign_in_wait = max(3.0, rng.gauss(7.5, 1.2))
        machine = self.machine
        machine.start(_KERNEL, 0, INIT_PID_GROUP)
        machine.when("userspace", self._start_system)
        machine.when("sign-in shown", self._person_signs_in)
        machine.when("signed in", self._start_session)

    def _start_system(self) -> None:
        system = [entry for entry in self._entries if not entry.at_sign_in]
        waited_for = {entry.entry_id for entry in system if self._is_in_order(entry.entry_id)}
        self._tell_when_all_up(waited_for, "system up")
        for entry in system:
            self._ask(entry)

    def _tell_when_all_up(self, entry_ids: set[str], event: str) -> None:
        missing = set(entry_ids)

        def one_up(entry_id: str) -> None:
            missing.discard(entry_id)
            if not missing:
                self.machine.tell(event)

        for entry_id in entry_ids:
            self.machine.when(_up(entry_id), lambda entry_id=entry_id: one_up(entry_id))  # type: ignore[misc]

    def _person_signs_in(self) -> None:
        self.machine.at(
            self.machine.now + self._sign_in_wait, lambda: self.machine.tell("signed in")
        )

    def _start_session(self) -> None:
        for entry in self._entries:
            if entry.at_sign_in:
                self._ask(entry)
        if self._setup.updates_running:
            self.machine.start(_UPDATE, 1, "/system.slice/system-updates.service")
        if self._setup.bigger_swap:
            self.machine.start(_SWAP_CLEARING, 1, "/system.slice/swap.service")

    def _is_in_order(self, entry_id: str) -> bool:
        """Others wait for it: it is there, starts with the boot, and not by a timer."""
        entry = self._by_id.get(entry_id)
        starts = self._setup.of(entry_id) is Switch.ON
        return starts and entry is not None and entry.timer_seconds is None

    def _ask(self, entry: Entry) -> None:
        """Ask an entry to start: now, later or not at all."""
        switch = self._setup.of(entry.entry_id)
        if switch is Switch.OFF:
            return
        delay = LATER_SECONDS if switch is Switch.LATER else entry.timer_seconds or 0.0
        self.machine.at(self.machine.now + delay, lambda: self._wait(entry))

    def _wait(self, entry: Entry) -> None:
        trace = self.traces[entry.entry_id] = EntryTrace(entry=entry, waiting_from=self.machine.now)
        missing = {other for other in entry.after if self._is_in_order(other)}

        def go() -> None:
            lag = entry.lag_seconds * Random(f"{self._seed} {entry.entry_id}").uniform(0.9, 1.1)
            self.machine.at(self.machine.now + lag, lambda: self._begin(trace))

        def one_up(other: str) -> None:
            missing.discard(other)
            if not missing:
                go()

        if not missing:
            go()
        for other in tuple(missing):
            self.machine.when(_up(other), lambda other=other: one_up(other))  # type: ignore[misc]

    def _begin(self, trace: EntryTrace) -> None:
        trace.starting_from = self.machine.now
        if trace.entry.program is None:
            trace.result = "its program is gone; the start failed"
            trace.ended_at = self.machine.now
            return

        def up() -> None:
            if trace.up_at is None:
                trace.up_at = self.machine.now
                self.machine.tell(_up(trace.entry.entry_id))

        def ended() -> None:
            up()
            if trace.restarts < trace.entry.restarts:
                trace.restarts += 1
                start()
                return
            trace.ended_at, trace.result = self.machine.now, trace.entry.fails

        def start() -> None:
            assert trace.entry.program is not None
            self.machine.start(trace.entry.program, 1, group_of(trace.entry), up, ended)

        start()

    def alive(self) -> Iterable[Process]:
        """Every process running now."""
        return self.machine.processes.values()

    def end(self, entry_id: str, back_after: float | None) -> None:
        """End all that an entry runs; it starts itself again after so many seconds, or never."""
        entry = self._by_id[entry_id]
        for process in [one for one in self.alive() if one.group == group_of(entry)]:
            self.machine.end(process)
        program = entry.program
        if back_after is None or program is None:
            return

        def back() -> None:
            self.machine.start(program, 1, group_of(entry))

        self.machine.at(self.machine.now + back_after, back)


def group_of(entry: Entry) -> str:
    """Control group an entry's processes run in."""
    if entry.at_sign_in:
        return f"/user.slice/user-1000.slice/user@1000.service/app.slice/app-{entry.entry_id}.scope"
    return f"/system.slice/{entry.entry_id}"


def _up(entry_id: str) -> str:
    return f"up:{entry_id}"


_KERNEL = Program(
    "init",
    "/sbin/init",
    (
        Sleep(1.6),
        Compute(2.4),
        Read("kernel-modules", 38, scattered=True),
        Sleep(0.4),
        Tell("userspace"),
        Stay(30.0, 0.002),
    ),
)
_UPDATE = Program(
    "system-updates",
    "/usr/lib/system-updates --install",
    (Read("package-lists", 140, scattered=True), Compute(16, 2), Write(260), Compute(5)),
)
_SWAP_CLEARING = Program(
    "swapclear", "/usr/sbin/swapclear", (Read("swap-map", 38, scattered=True), Write(300))
)
