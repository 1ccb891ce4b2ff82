"""What a PC has, in words."""

from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Drive, DriveKind, Facts
from plucky_ledger.wording.figures import length_of_time, memory_size, size
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.safe import shown

NAMED_DRIVES = 2


def subtitle(card: Card, facts: Facts) -> str:
    """Label, owner and what the PC has, in one line."""
    parts = [say("job {label}", label=card.label), card.owner, facts_in_brief(facts)]
    return " · ".join(shown(part) for part in parts if part)


def facts_in_brief(facts: Facts) -> str:
    """Cores, memory and drives in one line; what is not known is left out."""
    parts = []
    if facts.cores:
        parts.append(say_n("{n} core", "{n} cores", facts.cores))
    if facts.memory_bytes:
        parts.append(memory_size(facts.memory_bytes))
    parts.extend(_drive(drive) for drive in facts.drives[:NAMED_DRIVES])
    return " · ".join(parts)


def _drive(drive: Drive) -> str:
    kind = {
        DriveKind.ROTATING: say("rotating disk"),
        DriveKind.SOLID_STATE: say("solid-state drive"),
        DriveKind.UNKNOWN: say("drive"),
    }[drive.kind]
    text = f"{kind} {size(drive.size_bytes)}"
    if drive.free_bytes is None:
        return text
    return say("{drive}, {free} free", drive=text, free=size(drive.free_bytes))


def more_facts(facts: Facts) -> str:
    """What the job card shows beside its fields: how long it has been running, further drives."""
    sentence = []
    if facts.uptime_seconds:
        running = length_of_time(facts.uptime_seconds)
        sentence.append(say("running for {length} without a restart", length=running))
    others = len(facts.drives) - 1
    if others > 0:
        sentence.append(
            say_n("{n} more drive is kept as read", "{n} more drives are kept as read", others)
        )
    return " · ".join(sentence)
