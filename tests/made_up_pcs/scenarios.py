"""Families of whole PCs, from seeds, that make startup costs hard to tell in different ways.

Every program has a true cost here: the PC is run again without it. What is tuned is tuned on some
families and judged on the others.
"""

from dataclasses import dataclass
from enum import StrEnum
from random import Random

from plucky_ledger.standin.machine import Hardware
from plucky_ledger.standin.museum import DESKTOP, SYSTEM_SERVICES, USER
from plucky_ledger.standin.pc import StandinPc
from plucky_ledger.standin.program import (
    Action,
    Compute,
    Entry,
    Hold,
    Program,
    Read,
    Sleep,
    Spawn,
    Stay,
    Up,
    Write,
)


class Scenario(StrEnum):
    """What makes the PC of a family what it is."""

    CROWDED_DISK = "crowded rotating disk"
    FEW_CORES = "two cores, too much to compute"
    MOSTLY_WAITING = "fast, entries that only wait"
    ORDERED_SERVICES = "services one after the other"
    DEPENDENT = "sign-in programs in order"
    SINGLE_CORE = "one core"
    MANY_CORES = "eight cores, solid state"
    SHARED_LIBRARIES = "rotating disk, shared libraries"
    LATE_AND_BUSY = "late starters and background work"


TUNED_ON = (Scenario.CROWDED_DISK, Scenario.FEW_CORES, Scenario.MOSTLY_WAITING)
JUDGED_ON = tuple(scenario for scenario in Scenario if scenario not in TUNED_ON)


@dataclass(frozen=True)
class _Traits:
    """How the programs of a family come about. Sizes are medians of log-normal draws."""

    cores: tuple[int, ...] = (2, 4)
    rotating: float = 0.5
    """Chance of a rotating disk."""
    programs: tuple[int, int] = (6, 14)
    services: tuple[int, int] = (0, 3)
    megabytes: float = 22.0
    cpu_seconds: float = 1.6
    waiting: float = 0.25
    """Chance that a program waits in between."""
    waiting_only: float = 0.0
    """Chance that it does nothing but wait."""
    after_another: float = 0.0
    """Chance that a sign-in program is ordered after an earlier one."""
    shares_libraries: float = 0.0
    late: int = 0
    """How many timers start something later."""
    restless: int = 0
    """How many programs go on working now and then."""


_TRAITS = {
    Scenario.CROWDED_DISK: _Traits(cores=(2, 4), rotating=1.0, megabytes=45, cpu_seconds=1.2),
    Scenario.FEW_CORES: _Traits(cores=(2,), rotating=0.3, cpu_seconds=3.0),
    Scenario.MOSTLY_WAITING: _Traits(
        cores=(4, 6), rotating=0.0, cpu_seconds=0.8, waiting=0.6, waiting_only=0.3
    ),
    Scenario.ORDERED_SERVICES: _Traits(services=(4, 8), programs=(3, 7)),
    Scenario.DEPENDENT: _Traits(after_another=0.5, waiting=0.4),
    Scenario.SINGLE_CORE: _Traits(cores=(1,)),
    Scenario.MANY_CORES: _Traits(cores=(8,), rotating=0.0, programs=(10, 18), cpu_seconds=4.0),
    Scenario.SHARED_LIBRARIES: _Traits(rotating=1.0, shares_libraries=0.7, megabytes=30),
    Scenario.LATE_AND_BUSY: _Traits(late=2, restless=2),
}


def scenario_pc(scenario: Scenario, seed: int) -> StandinPc:
    """A PC of a family; the same seed gives the same PC."""
    rng = Random(f"{scenario} {seed}")
    traits = _TRAITS[scenario]
    services = [_service(index, rng, traits) for index in range(rng.randint(*traits.services))]
    programs = [_sign_in(index, rng, traits) for index in range(rng.randint(*traits.programs))]
    late = [_timer(index, rng, traits) for index in range(traits.late)]
    restless = [_restless(index, rng) for index in range(traits.restless)]
    return StandinPc(
        hardware=_hardware(rng, traits),
        entries=(*SYSTEM_SERVICES, *services, *late, DESKTOP, *programs, *restless),
        os_release="Breakwater Linux 12",
        cpu_model=f"made-up processor {seed}",
        kernel="6.1.0-21-desktop",
    )


def _hardware(rng: Random, traits: _Traits) -> Hardware:
    cores, speed = rng.choice(traits.cores), rng.uniform(0.7, 1.4)
    if rng.random() < traits.rotating:
        return Hardware(
            cores=cores,
            core_speed=speed,
            disk_megabytes_per_second=rng.uniform(60, 120),
            seek_seconds=rng.uniform(0.007, 0.012),
            memory_megabytes=4096,
        )
    return Hardware(
        cores=cores,
        core_speed=speed,
        disk_megabytes_per_second=rng.uniform(250, 900),
        seek_seconds=0.0001,
        memory_megabytes=8192,
        rotating=False,
    )


def _size(rng: Random, median: float) -> float:
    return median * rng.lognormvariate(0.0, 0.9)


def _work(name: str, rng: Random, traits: _Traits) -> list[Action]:
    """Reads, computes, sometimes waits, writes or starts another; in any order."""
    if rng.random() < traits.waiting_only:
        return [Compute(0.05), Sleep(rng.uniform(1, 14)), Hold(_size(rng, 20))]
    actions: list[Action] = [
        Read(f"{name}-files", _size(rng, traits.megabytes), scattered=rng.random() < 0.5),
        Compute(_size(rng, traits.cpu_seconds), rng.choice((1, 1, 1, 2, 4))),
        Hold(_size(rng, 60)),
    ]
    if rng.random() < traits.waiting:
        actions.append(Sleep(rng.uniform(0.5, 8.0)))
    if rng.random() < 0.15:
        actions.append(Write(rng.uniform(5, 60)))
    if rng.random() < 0.2:
        child = Program(
            f"{name}-child",
            f"/opt/{name}/child --warm",
            (Read(f"{name}-more", _size(rng, 10)), Compute(_size(rng, 0.8)), Hold(12)),
            USER,
        )
        actions.append(Spawn(child))
    rng.shuffle(actions)
    if rng.random() < traits.shares_libraries:
        actions.insert(0, Read("shared-toolkit", 64))
    return actions


def _sign_in(index: int, rng: Random, traits: _Traits) -> Entry:
    name = f"made-up-{index:02d}"
    actions = _work(name, rng, traits)
    # Many are up, as far as anybody waits for them, before they have done all they do.
    actions.insert(rng.randint(len(actions) // 2, len(actions)), Up())
    program = Program(name, f"/opt/{name}/run", (*actions, Stay(6, 0.008)), USER)
    after: tuple[str, ...] = ()
    if index and rng.random() < traits.after_another:
        after = (f"made-up-{rng.randrange(index):02d}",)
    return Entry(
        entry_id=name,
        name=f"Made-up {index}",
        program=program,
        kind="sign-in program",
        origin=f"/etc/xdg/autostart/{name}.desktop",
        after=after,
        at_sign_in=True,
        lag_seconds=rng.uniform(0.1, 4.0),
    )


def _service(index: int, rng: Random, traits: _Traits) -> Entry:
    name = f"made-up-service-{index}.service"
    actions = _work(name, rng, traits)
    program = Program(
        name.removesuffix(".service"), f"/usr/lib/{name}", (*actions, Up(), Stay(9, 0.005))
    )
    after: tuple[str, ...] = ("message-bus.service",)
    if index and rng.random() < 0.6:
        after = (f"made-up-service-{rng.randrange(index)}.service",)
    elif rng.random() < 0.3:
        after = ("wireless-setup.service",)
    return Entry(
        entry_id=name,
        name=f"Made-up service {index}",
        program=program,
        kind="system service",
        origin=f"/etc/systemd/system/{name}",
        after=after,
    )


def _timer(index: int, rng: Random, traits: _Traits) -> Entry:
    name = f"made-up-late-{index}.service"
    program = Program(name, f"/usr/lib/{name}", (*_work(name, rng, traits), Up()))
    return Entry(
        entry_id=name,
        name=f"Made-up late {index}",
        program=program,
        kind="timer",
        origin=f"/etc/systemd/system/{name}",
        timer_seconds=rng.uniform(8, 45),
    )


def _restless(index: int, rng: Random) -> Entry:
    name = f"made-up-restless-{index}"
    rest = Stay(rng.uniform(0.8, 3.0), rng.uniform(0.02, 0.1))
    program = Program(name, f"/opt/{name}/run", (Compute(0.6), Up(), rest), USER)
    return Entry(
        entry_id=name,
        name=f"Made-up restless {index}",
        program=program,
        kind="sign-in program",
        origin=f"/etc/xdg/autostart/{name}.desktop",
        at_sign_in=True,
    )
