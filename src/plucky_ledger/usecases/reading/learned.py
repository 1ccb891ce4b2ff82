"""What this workshop learned of programs, handed on; and what others did, beside it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from plucky_ledger.core.book.learned import ProgramLearned, learned_of
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.entries.entry import package_name
from plucky_ledger.core.entries.identity import UNKNOWN, Identity
from plucky_ledger.core.job.entry_states import decisions_of
from plucky_ledger.core.job.inventory import Inventory, InventoryEntry
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.chosen_file import read_chosen
from plucky_ledger.exchange.learned_file import (
    LearnedFile,
    learned_bytes,
    new_key,
    read_learned,
)
from plucky_ledger.exchange.saving import save_file
from plucky_ledger.store.decisions import all_decisions
from plucky_ledger.store.entries import inventory
from plucky_ledger.store.jobs import read_jobs
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.store.workshop import setting, write_setting
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.preferences import read_preferences

__all__ = [
    "LearnedElsewhere",
    "LearnedFile",
    "forget_learned",
    "hand_on",
    "known_elsewhere",
    "learned_here",
    "make_key",
    "others",
    "take_in_learned",
]
OTHERS = "other workshops"
"""Name of the setting that holds what they learned."""
LARGEST_KEY = 10_000
MOST_WORKSHOPS = 50


@dataclass(frozen=True)
class LearnedElsewhere:
    """What another workshop knows of a program."""

    workshop: str
    signed_by: str
    """Fingerprint of the key that signed it; empty where nobody did."""
    program: ProgramLearned


def learned_here(ledger: Ledger) -> tuple[ProgramLearned, ...]:
    """What this ledger's jobs teach, the costliest first."""
    with ledger.session() as session:
        decided = all_decisions(session)
        jobs = read_jobs(session)
        there = {job.number: inventory(session, job.number) for job in jobs}
    return learned_of(
        (job, _identified(decisions_of(job, decided.get(job.number, {})), there[job.number]))
        for job in jobs
    )


def _identified(decided: Mapping[str, Decided], there: Inventory | None) -> Mapping[str, Decided]:
    """What was only posted, and never decided about, is known by the package it belongs to."""
    if there is None:
        return decided
    return {
        entry_id: replace(one, name=one.name or entry.name, identity=_of_package(entry, entry_id))
        if one.identity == UNKNOWN and (entry := there.entries.get(entry_id)) is not None
        else one
        for entry_id, one in decided.items()
    }


def _of_package(entry: InventoryEntry, entry_id: str) -> Identity:
    return Identity(package=package_name(entry.package), entry_id=entry_id)


def hand_on(ledger: Ledger, path: Path, key: Path | None = None) -> int:
    """Write what was learned here into a file, signed with a key where one is named; returns how
    many programs that are. Raises Trouble.
    """
    programs = learned_here(ledger)
    if not programs:
        raise Refused(TroubleCode.NOTHING_LEARNED)
    private = read_chosen(key, LARGEST_KEY) if key is not None else b""
    told = LearnedFile(read_preferences().workshop.strip(), f"{now():%Y-%m-%d}", programs)
    save_file(learned_bytes(told, private), path)
    return len(programs)


def make_key(path: Path) -> None:
    """Write a new private key, for nobody else to read. Raises Trouble."""
    if path.exists():
        raise Refused(TroubleCode.FILE_EXISTS, path=str(path))
    save_file(new_key(), path)


def others(ledger: Ledger) -> tuple[LearnedFile, ...]:
    """What other workshops learned, as it was taken in."""
    with ledger.session() as session:
        return tuple(setting(session, OTHERS, list[LearnedFile]) or ())


def take_in_learned(ledger: Ledger, path: Path) -> LearnedFile:
    """Take in what another workshop learned, in place of what it had told before.

    It is shown beside our own, and nothing is done by it. Raises Trouble.
    """
    file = read_learned(path)
    with step(ledger, StepCode.TAKE_IN_LEARNED, None, name=file.workshop) as session:
        known = setting(session, OTHERS, list[LearnedFile]) or []
        kept = [one for one in known if _whose(one) != _whose(file)]
        write_setting(session, OTHERS, [file, *kept][:MOST_WORKSHOPS])
    return file


def forget_learned(ledger: Ledger, workshop: str) -> None:
    """Forget what a workshop told. Raises Refused where it told nothing."""
    with step(ledger, StepCode.FORGET_LEARNED, None, name=workshop) as session:
        known = setting(session, OTHERS, list[LearnedFile]) or []
        kept = [one for one in known if one.workshop != workshop]
        if len(kept) == len(known):
            raise Refused(TroubleCode.NO_SUCH_WORKSHOP, name=workshop)
        write_setting(session, OTHERS, kept)


def _whose(file: LearnedFile) -> str:
    """A signature says who it is; a name alone may be anybody's."""
    return file.signed_by or f"unsigned {file.workshop}"


def known_elsewhere(
    files: Sequence[LearnedFile], identities: Mapping[str, Identity]
) -> dict[str, tuple[LearnedElsewhere, ...]]:
    """By entry id what other workshops know of it; those with most PCs first."""
    by_name: dict[str, list[LearnedElsewhere]] = {}
    for file in files:
        for program in file.programs:
            one = LearnedElsewhere(file.workshop, file.signed_by, program)
            for name in filter(None, (program.package, program.executable)):
                by_name.setdefault(name, []).append(one)
    found: dict[str, tuple[LearnedElsewhere, ...]] = {}
    for entry_id, identity in identities.items():
        names = filter(None, (identity.package, identity.executable))
        candidates = {id(one): one for name in names for one in by_name.get(name, ())}
        fitting = [one for one in candidates.values() if _fits(identity, one.program)]
        if fitting:
            found[entry_id] = tuple(sorted(fitting, key=lambda one: -one.program.pcs))
    return found


def _fits(identity: Identity, program: ProgramLearned) -> bool:
    """Whether it is the same program; a file of which only one side tells speaks for nothing."""
    if identity.package and identity.package == program.package:
        both = identity.executable and program.executable
        return not both or identity.executable == program.executable
    return identity.matches(program.identity) is not None
