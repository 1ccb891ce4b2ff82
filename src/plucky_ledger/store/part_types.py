"""What the parts of a job hold, by kind: whatever comes from a file is held against it first."""

import json
from collections.abc import Mapping

import msgspec

from plucky_ledger.core.boots.boot import Context, How
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.job.advised import Advised
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.job import Turns
from plucky_ledger.core.job.parts import GONE, Part
from plucky_ledger.core.pc.condition import Inspected
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import WhichPc
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.store.columns import instant, kept

CARD, ADVICE, TURNS = "card", "advice", "turns"
POSTING, BOOT, DECISION, TYPED, ASIDE = "posting", "boot", "decision", "typed", "aside"


class _Nothing(msgspec.Struct, frozen=True):
    """What has nothing that follows from elsewhere."""


class _Card(msgspec.Struct, frozen=True):
    title: str
    owner: str
    complaint: str


class _AboutPc(msgspec.Struct, frozen=True):
    label: str
    taken_in_at: str
    facts: Facts
    pc: WhichPc
    inspected: Inspected | None


class _Advice(msgspec.Struct, frozen=True):
    advised: tuple[Advised, ...]


class _Turns(msgspec.Struct, frozen=True):
    turns: Turns | None


class _Posting(msgspec.Struct, frozen=True):
    title: str
    posted_at: str | None
    posted_in_boot: str
    strikes_out: str | None
    changes: tuple[Change, ...]
    opens_visit: bool
    series: str


class _Expected(msgspec.Struct, frozen=True):
    expected: dict[Measure, Estimate]


class _Boot(msgspec.Struct, frozen=True):
    started_at: str
    how: How
    marks: dict[Mark, float]
    set_aside: str
    posting: str | None


class _Figures(msgspec.Struct, frozen=True):
    uuid: str
    boot_id: str
    recording: str | None
    readings: dict[Measure, Reading]
    context: Context
    cut_short: bool
    method: int


class _Reason(msgspec.Struct, frozen=True):
    reason: str


TYPES: Mapping[str, tuple[type, type]] = {
    CARD: (_Card, _AboutPc),
    ADVICE: (_Advice, _Nothing),
    TURNS: (_Turns, _Nothing),
    POSTING: (_Posting, _Expected),
    BOOT: (_Boot, _Figures),
    DECISION: (Decided, _Nothing),
    TYPED: (StartupEntry, _Nothing),
    ASIDE: (_Reason, _Nothing),
}
"""By kind of part, what its content and what is derived hold."""
_INSTANTS = ("taken_in_at", "posted_at", "started_at")


def check(parts: Mapping[str, Part]) -> None:
    """Raises LedgerFault where a part is none of its kind."""
    with kept():
        for part in parts.values():
            content, derived = TYPES[part.identity.partition(":")[0]]
            if part.content == GONE:
                continue
            msgspec.json.decode(part.content, type=content)
            msgspec.json.decode(part.derived or "{}", type=derived)
            told = {**json.loads(part.content), **json.loads(part.derived or "{}")}
            for name in _INSTANTS:
                if told.get(name) is not None:
                    instant(told[name])
