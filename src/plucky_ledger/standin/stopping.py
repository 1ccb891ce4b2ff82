"""Ending a program of a stand-in PC that has come to rest."""

from collections.abc import Iterator

from plucky_ledger.core.pc.stopping import Stopped
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.standin.boot_run import Setup, Switch
from plucky_ledger.standin.pc import StandinPc
from plucky_ledger.standin.program import Entry, Hold, Program, Spawn, Stay

COMES_BACK_SECONDS = 3.0
"""How soon one that switches itself on again has started itself."""


def stop(pc: StandinPc, setup: Setup, entry: Entry) -> Stopped:
    """End what an entry runs. What stays after start-up was there, and what it held is free.

    Raises:
        Refused: the entry is off, or its program has ended long ago.
    """
    running = [program for program in _family(entry.program) if _stays(program)]
    if setup.of(entry.entry_id) is Switch.OFF or not running:
        raise Refused(TroubleCode.NOT_RUNNING, name=entry.name)
    held = sum(a.megabytes for p in running for a in p.actions if isinstance(a, Hold))
    back = entry.entry_id in pc.comes_back
    return Stopped(
        name=entry.name,
        processes=len(running),
        freed_bytes=held * 2**20,
        forced=0,
        came_back_seconds=COMES_BACK_SECONDS if back else None,
        started_again_by=entry.name if back else "",
    )


def entry_behind(pc: StandinPc, what: str) -> Entry:
    """The entry of an id, or that runs a command. Raises Refused: there is none."""
    for entry in pc.entries:
        if what in {entry.entry_id, *(program.command for program in _family(entry.program))}:
            return entry
    raise Refused(TroubleCode.NOT_RUNNING, name=what)


def _family(program: Program | None) -> Iterator[Program]:
    if program is None:
        return
    yield program
    for action in program.actions:
        if isinstance(action, Spawn):
            yield from _family(action.program)


def _stays(program: Program) -> bool:
    return any(isinstance(action, Stay) for action in program.actions)
