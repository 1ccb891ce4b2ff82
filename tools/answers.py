"""Schemas of what commands answer with ``--json``, made from the types of the answers.

``python tools/answers.py`` writes them to ``docs/formats/answers.schema.json``.
"""

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from plucky_ledger.cli.answers import VERSION
from plucky_ledger.core.book.learned import ProgramLearned
from plucky_ledger.core.entries.sources import SourceLooked
from plucky_ledger.core.entries.switching import Reversible
from plucky_ledger.core.pc.room import Survey
from plucky_ledger.core.replay.startup_cost import PlanEstimate
from plucky_ledger.core.trend.trend import Trend
from plucky_ledger.core.values.reasons import Fact
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.pages.book import BookPage
from plucky_ledger.pages.effects import EffectsPage
from plucky_ledger.pages.entries import EntryRow
from plucky_ledger.pages.load import Amounts, LoadRow
from plucky_ledger.pages.shelf import Spine
from plucky_ledger.pages.verdict import VerdictPage
from plucky_ledger.pages.why import WhyPage
from plucky_ledger.usecases.reading.learned import LearnedFile
from plucky_ledger.usecases.recording.night_report import NightReport
from plucky_ledger.usecases.recording.past_boots import ReadBack
from plucky_ledger.usecases.recording.sticks import TakenIn

PATH = Path(__file__).parent.parent / "docs/formats/answers.schema.json"


@dataclass(frozen=True)
class Entries:
    """Entries and what the plan brings."""

    entries: tuple[EntryRow, ...]
    plan: PlanEstimate | None


@dataclass(frozen=True)
class Learned:
    """What was learned of programs here, and what other workshops told."""

    here: tuple[ProgramLearned, ...]
    others: tuple[LearnedFile, ...]


@dataclass(frozen=True)
class Sources:
    """Where entries were looked for."""

    sources: tuple[SourceLooked, ...]


@dataclass(frozen=True)
class Load:
    """What used the PC in a span of one boot."""

    rows: tuple[LoadRow, ...]
    sums: Amounts
    span: tuple[float, float]


@dataclass(frozen=True)
class Imported:
    """What became of one file."""

    file: str
    boot: int | None
    told: str
    refused: bool


@dataclass(frozen=True)
class PickedUp:
    """What became of what was armed."""

    recordings: int
    told: str


@dataclass(frozen=True)
class Taken:
    """The new job."""

    label: str
    title: str


@dataclass(frozen=True)
class Told:
    """Why something was refused: its code, and the facts that its sentence has."""

    code: TroubleCode
    facts: dict[str, Fact]


setattr(Trouble, "__get_pydantic_core_schema__", classmethod(lambda _c, _s, make: make(Told)))  # noqa: B010 it is not ours

ANSWERS: dict[str, Any] = {
    "book": BookPage,
    "changes": list[Reversible],
    "compare": list[VerdictPage],
    "effects": EffectsPage,
    "entries": Entries,
    "import": list[Imported],
    "import-drop": list[TakenIn],
    "jobs": list[Spine],
    "learned": Learned,
    "load": Load,
    "night-shift": NightReport | None,
    "past-boots": ReadBack,
    "pick-up": PickedUp,
    "room": Survey,
    "sources": Sources,
    "take-in": Taken,
    "trend": Trend,
    "why": WhyPage,
}


def schemas() -> str:
    """All of them, as the file has them."""
    wanted = [(name, "serialization", TypeAdapter(type_)) for name, type_ in ANSWERS.items()]
    by_name, common = TypeAdapter.json_schemas(wanted)
    for described in common["$defs"].values():
        if "properties" in described:  # there is none that is not described
            described["additionalProperties"] = False
    answers = [
        {
            "type": "object",
            "properties": {
                "schema": {"const": f"plucky-ledger/{name}/{VERSION}"},
                "answer": by_name[name, "serialization"],
            },
            "required": ["schema", "answer"],
        }
        for name in sorted(ANSWERS)
    ]
    whole = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "What Plucky Ledger's commands answer with --json",
        "oneOf": answers,
        **common,
    }
    return json.dumps(whole, indent=1, sort_keys=True, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    PATH.write_text(schemas(), "utf-8")
