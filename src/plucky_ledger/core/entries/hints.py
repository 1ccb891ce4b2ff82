"""What can be pointed out about an entry without having measured it, each with its evidence."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.entries.commands import CommandLine, unwrapped
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.kinds import another_person
from plucky_ledger.core.values.reasons import Reason, ReasonCode


class HintKind(StrEnum):
    """What is pointed out."""

    LEFT_BEHIND = "left_behind"
    DUPLICATE = "duplicate"
    UPDATER = "updater"
    GUARDED = "guarded"


class Source(StrEnum):
    """Where a telling word was found."""

    NAME = "name"
    PROGRAM = "program"
    PACKAGE = "package"
    DESCRIPTION = "description"


@dataclass(frozen=True)
class Hint:
    """One thing pointed out about an entry."""

    kind: HintKind
    evidence: Reason
    """Why, so that a technician can check it."""


@dataclass(frozen=True)
class HintRule:
    """A kind of program known by words in its name, its program or its package's description."""

    kind: HintKind
    words: tuple[str, ...]
    """Whole words, lower case."""
    because: ReasonCode


def hints_of(
    entries: Sequence[StartupEntry], rules: Sequence[HintRule]
) -> dict[str, tuple[Hint, ...]]:
    """Hints of every entry that has any, by entry id."""
    programs: dict[tuple[str, CommandLine], list[StartupEntry]] = {}
    """By whose sign-in starts them, where that is another person's."""
    for entry in entries:
        if entry.command and entry.off_because is None:
            programs.setdefault(_same(entry), []).append(entry)
    by_entry: dict[str, list[Hint]] = {}
    for entry in entries:
        hints = [
            hint
            for hint in (
                _left_behind(entry),
                _duplicate(entry, programs.get(_same(entry), ())),
                _guarded(entry),
            )
            if hint is not None
        ]
        hints.extend(_by_rules(entry, rules))
        if hints:
            by_entry[entry.entry_id] = hints
    return {entry_id: tuple(hints) for entry_id, hints in by_entry.items()}


def _same(entry: StartupEntry) -> tuple[str, CommandLine]:
    return another_person(entry.entry_id), unwrapped(entry.command)


def is_guarded(entry: StartupEntry, hints: Sequence[Hint]) -> bool:
    """Whether switching an entry off needs a second deliberate step."""
    return entry.part_of_system or any(hint.kind is HintKind.GUARDED for hint in hints)


def _left_behind(entry: StartupEntry) -> Hint | None:
    if not entry.left_behind:
        return None
    program = entry.executable or unwrapped(entry.command).program
    return Hint(HintKind.LEFT_BEHIND, Reason.of(ReasonCode.GONE, program=program))


def _duplicate(entry: StartupEntry, same: Sequence[StartupEntry]) -> Hint | None:
    others = [other for other in same if other.entry_id != entry.entry_id]
    if not others or not unwrapped(entry.command).program:
        return None
    names = ", ".join(other.origin or other.entry_id for other in others[:3])
    return Hint(HintKind.DUPLICATE, Reason.of(ReasonCode.ALSO_STARTED_BY, names=names))


def _guarded(entry: StartupEntry) -> Hint | None:
    return Hint(HintKind.GUARDED, Reason(ReasonCode.MARKED_BY_PC)) if entry.guarded else None


def _by_rules(entry: StartupEntry, rules: Sequence[HintRule]) -> list[Hint]:
    sources = {
        Source.NAME: entry.name,
        Source.PROGRAM: unwrapped(entry.command).name,
        Source.PACKAGE: entry.package,
        Source.DESCRIPTION: entry.description,
    }
    hints = []
    for rule in rules:
        if rule.kind is HintKind.GUARDED and entry.guarded:
            continue
        for source, text in sources.items():
            words = set(re.findall(r"[a-z]+", text.casefold()))
            word = next((word for word in rule.words if word in words), None)
            if word is not None:
                hints.append(Hint(rule.kind, Reason.of(rule.because, word=word, source=source)))
                break
    return hints
