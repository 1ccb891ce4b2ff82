"""What can be pointed out about an entry without having measured it, each with its evidence."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.boots.boot import StartupEntry
from plucky_ledger.core.entries.commands import CommandLine, unwrapped


class HintKind(StrEnum):
    """What is pointed out."""

    LEFT_BEHIND = "left behind"
    DUPLICATE = "duplicate"
    UPDATER = "bare updater"
    GUARDED = "guarded"


@dataclass(frozen=True)
class Hint:
    """One thing pointed out about an entry."""

    kind: HintKind
    evidence: str
    """Why, in words a technician can check."""


@dataclass(frozen=True)
class Rule:
    """A kind of program known by words in its name, its program or its package's description."""

    kind: HintKind
    words: tuple[str, ...]
    """Whole words, lower case."""
    because: str


def hints_of(entries: Sequence[StartupEntry], rules: Sequence[Rule]) -> dict[str, tuple[Hint, ...]]:
    """Hints of every entry that has any, by entry id."""
    programs: dict[CommandLine, list[StartupEntry]] = {}
    for entry in entries:
        if entry.command and not entry.off_because:
            programs.setdefault(unwrapped(entry.command), []).append(entry)
    found: dict[str, list[Hint]] = {}
    for entry in entries:
        hints = [
            hint
            for hint in (
                _left_behind(entry),
                _duplicate(entry, programs.get(unwrapped(entry.command), ())),
                _guarded(entry),
            )
            if hint is not None
        ]
        hints.extend(_by_rules(entry, rules))
        if hints:
            found[entry.entry_id] = hints
    return {entry_id: tuple(hints) for entry_id, hints in found.items()}


def _left_behind(entry: StartupEntry) -> Hint | None:
    if not entry.left_behind:
        return None
    program = entry.executable or unwrapped(entry.command).program
    return Hint(HintKind.LEFT_BEHIND, f"{program or 'its program'} does not exist any more")


def _duplicate(entry: StartupEntry, same: Sequence[StartupEntry]) -> Hint | None:
    others = [other for other in same if other.entry_id != entry.entry_id]
    if not others or not unwrapped(entry.command).program:
        return None
    names = ", ".join(other.origin or other.entry_id for other in others[:3])
    return Hint(HintKind.DUPLICATE, f"the same program is also started by {names}")


def _guarded(entry: StartupEntry) -> Hint | None:
    return Hint(HintKind.GUARDED, "marked so by the PC") if entry.guarded else None


def _by_rules(entry: StartupEntry, rules: Sequence[Rule]) -> list[Hint]:
    sources = {
        "its name": entry.name,
        "its program": unwrapped(entry.command).name,
        "its package": entry.package,
        "its package's description": entry.description,
    }
    hints = []
    for rule in rules:
        if rule.kind is HintKind.GUARDED and entry.guarded:
            continue
        for source, text in sources.items():
            words = set(re.findall(r"[a-z]+", text.casefold()))
            word = next((word for word in rule.words if word in words), None)
            if word is not None:
                evidence = f"{rule.because}: “{word}” in {source}"
                if rule.kind is HintKind.UPDATER and entry.schedule:
                    evidence += f", {entry.schedule}"
                hints.append(Hint(rule.kind, evidence))
                break
    return hints
