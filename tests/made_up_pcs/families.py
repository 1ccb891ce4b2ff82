"""Families of made-up PCs, from seeds: what the methods are judged on besides the demo's PC."""

from enum import StrEnum
from random import Random

from plucky_ledger.standin.machine import Hardware
from plucky_ledger.standin.museum import DESKTOP, SYSTEM_SERVICES
from plucky_ledger.standin.pc import StandinPc
from plucky_ledger.standin.program import (
    Action,
    Compute,
    Entry,
    Hold,
    Program,
    Read,
    Sleep,
    Stay,
    Up,
    Write,
)


class Family(StrEnum):
    """Kinds of PC that stress different parts of the methods."""

    FAST = "fast solid-state drive"
    SLOW_DISK = "slow rotating disk"
    ONE_CORE = "one core"
    NOISY_REST = "noisy at rest"
    NEVER_SETTLES = "never settles"


def made_up_pc(family: Family, seed: int) -> StandinPc:
    """A PC of a family; the same seed gives the same PC."""
    rng = Random(f"{family} {seed}")
    return StandinPc(
        hardware=_hardware(family, rng),
        entries=(*SYSTEM_SERVICES, DESKTOP, *_programs(family, rng)),
        os_release="Breakwater Linux 12",
        cpu_model=f"made-up processor {seed}",
        kernel="6.1.0-21-desktop",
    )


def _hardware(family: Family, rng: Random) -> Hardware:
    cores = {Family.ONE_CORE: 1, Family.FAST: rng.choice((4, 6, 8))}.get(
        family, rng.choice((2, 2, 4))
    )
    speed = rng.uniform(0.7, 1.4)
    if family is Family.FAST or (family is not Family.SLOW_DISK and rng.random() < 0.5):
        return Hardware(
            cores=cores,
            core_speed=speed,
            disk_megabytes_per_second=rng.uniform(300, 900),
            seek_seconds=0.0001,
            memory_megabytes=rng.choice((4096, 8192)),
            rotating=False,
        )
    return Hardware(
        cores=cores,
        core_speed=speed,
        disk_megabytes_per_second=rng.uniform(60, 120),
        seek_seconds=rng.uniform(0.007, 0.012),
        memory_megabytes=4096,
    )


def _programs(family: Family, rng: Random) -> tuple[Entry, ...]:
    count = rng.randint(4, 12)
    entries = [_program(index, rng) for index in range(count)]
    if family is Family.NOISY_REST:
        entries.append(_resident("restless", Stay(rng.uniform(1.5, 4.0), rng.uniform(0.05, 0.2))))
    if family is Family.NEVER_SETTLES:
        entries.append(_resident("spinning", Compute(10_000.0, 8)))
    return tuple(entries)


def _program(index: int, rng: Random) -> Entry:
    """Reads, computes, sometimes waits or writes; sizes differ over two orders of magnitude."""
    actions: list[Action] = [
        Read(f"program-{index}", rng.lognormvariate(3.0, 1.0), scattered=rng.random() < 0.5),
        Compute(rng.lognormvariate(0.5, 1.0), rng.choice((1, 1, 2, 4))),
        Hold(rng.lognormvariate(4.0, 0.8)),
    ]
    if rng.random() < 0.25:
        actions.insert(1, Sleep(rng.uniform(0.5, 4.0)))
    if rng.random() < 0.2:
        actions.append(Write(rng.uniform(5, 80)))
    rng.shuffle(actions)
    name = f"made-up-{index:02d}"
    program = Program(name, f"/opt/{name}/run", (*actions, Up(), Stay(6, 0.008)), 1000)
    return Entry(
        entry_id=name,
        name=f"Made-up {index}",
        program=program,
        kind="sign-in program",
        origin=f"/etc/xdg/autostart/{name}.desktop",
        at_sign_in=True,
        lag_seconds=rng.uniform(0.2, 5.0),
    )


def _resident(name: str, action: Action) -> Entry:
    program = Program(name, f"/opt/{name}/run", (Sleep(1.0), Up(), action), 1000)
    return Entry(
        entry_id=name,
        name=name,
        program=program,
        kind="sign-in program",
        origin=f"/etc/xdg/autostart/{name}.desktop",
        at_sign_in=True,
    )
