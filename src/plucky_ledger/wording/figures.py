"""How figures, intervals and instants are written, everywhere the same."""

from datetime import UTC, datetime

from plucky_ledger.core.book.balance import in_unit
from plucky_ledger.core.book.verdict import Shift, Verdict, as_gain
from plucky_ledger.core.measures import Measure
from plucky_ledger.core.pc.facts import Drive, DriveKind, Facts

MINUS = "−"
LONGEST_TEXT = 300


def plain(value: float, measure: Measure) -> str:
    """A figure in the places the book is kept in, without its unit."""
    text = f"{abs(value):,.{measure.terms.decimals}f}"
    return f"{MINUS}{text}" if value < 0 and float(text.replace(",", "")) else text


def with_unit(value: float, measure: Measure) -> str:
    """A figure with its unit, such as "41.2 s"."""
    unit = measure.terms.unit
    return f"{plain(value, measure)} {unit}".strip()


def units(amount: int, measure: Measure) -> str:
    """Whole book units as a figure without unit."""
    return plain(in_unit(amount, measure), measure)


def signed(value: float, measure: Measure) -> str:
    """A shift with its sign; less is a minus."""
    text = plain(value, measure)
    return f"+{text}" if value > 0 and text.strip("0.,") else text


def tenths(value: float) -> str:
    """A figure to the tenth, never a minus before nothing."""
    text = f"{abs(value):.1f}"
    return f"{MINUS}{text}" if value < 0 and text != "0.0" else text


def interval(shift: Shift) -> str:
    """The 95 % interval of an amount saved or lost, such as "11.9 to 16.8"; empty when none."""
    gain = as_gain(shift)
    if gain is None:
        return ""
    return f"{plain(gain[0], shift.measure)} to {plain(gain[1], shift.measure)}"


def saved_or_lost(shift: Shift) -> str:
    """A shift in a few words: "saved 12.1 to 16.3", "even", "unproven"."""
    if shift.verdict in {Verdict.SAVED, Verdict.LOST}:
        return f"{shift.verdict} {interval(shift)}".strip()
    return str(shift.verdict)


def day(instant: datetime) -> str:
    """Day and month in the local zone, such as "12 Nov"."""
    return f"{instant.astimezone():%-d %b}"


def day_and_time(instant: datetime) -> str:
    """Such as "12 Nov 2026, 09:41" in the local zone."""
    return f"{instant.astimezone():%-d %b %Y, %H:%M}"


def count(number: int, one: str, many: str | None = None) -> str:
    """A number with its noun: "1 boot", "3 boots"."""
    return f"{number} {one if number == 1 else many or one + 's'}"


def size(amount: float) -> str:
    """Bytes as MB, GB or TB, with three figures at most."""
    for unit, scale in (("TB", 1e12), ("GB", 1e9), ("MB", 1e6)):
        if amount >= scale:
            figure = amount / scale
            return f"{figure:.{0 if figure >= 100 else 1 if figure >= 10 else 2}f} {unit}"
    return f"{amount / 1e3:.0f} kB"


def memory_size(amount: int) -> str:
    """Memory as it is sold: in powers of two."""
    return f"{amount / 2**30:.0f} GB" if amount > 1.5 * 2**30 else f"{amount / 2**20:.0f} MB"


def facts_in_brief(facts: Facts) -> str:
    """Cores, memory and drives in one line; what is not known is left out."""
    parts = []
    if facts.cores:
        parts.append(count(facts.cores, "core"))
    if facts.memory_bytes:
        parts.append(memory_size(facts.memory_bytes))
    parts.extend(_drive(drive) for drive in facts.drives[:2])
    return " · ".join(parts)


def _drive(drive: Drive) -> str:
    kind = {
        DriveKind.ROTATING: "rotating disk",
        DriveKind.SOLID_STATE: "solid-state drive",
        DriveKind.UNKNOWN: "drive",
    }[drive.kind]
    text = f"{kind} {size(drive.size_bytes)}"
    return text if drive.free_bytes is None else f"{text}, {size(drive.free_bytes)} free"


def uptime(seconds: float) -> str:
    """How long a PC has been running, in the two largest units."""
    days, rest = divmod(int(seconds), 86_400)
    hours, rest = divmod(rest, 3600)
    if days:
        return f"{count(days, 'day')} {count(hours, 'hour')}"
    if hours:
        return f"{count(hours, 'hour')} {count(rest // 60, 'minute')}"
    return count(rest // 60, "minute")


def shown(text: str) -> str:
    """Hostile text made fit to be shown: bounded, control characters as symbols."""
    visible = "".join(
        chr(0x2400 + ord(char)) if ord(char) < 32 else "␡" if ord(char) == 127 else char
        for char in text[:LONGEST_TEXT]
        if not (0x80 <= ord(char) < 0xA0 or char in _DIRECTION_MARKS)
    )
    return visible + "…" if len(text) > LONGEST_TEXT else visible


_DIRECTION_MARKS = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\u200e\u200f")
"""They could make a name read backwards."""


def now() -> datetime:
    """The wall clock, in UTC."""
    return datetime.now(UTC)
