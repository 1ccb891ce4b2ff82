"""How figures, sizes and instants are written and read, everywhere the same and by the locale."""

from datetime import UTC, datetime
from decimal import Decimal
from functools import lru_cache

from plucky_ledger.core.book.balance import in_unit
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.wording.language import current_locale, say, say_n

MINUS = "−"
FIGURES_KEPT = 4096
"""Figures kept as they were written: a page writes most of them again whenever it is shown."""


def number(value: float, decimals: int = 0) -> str:
    """A figure with so many decimals, grouped as the locale does; never a minus before nothing."""
    digits = f"{abs(value):.{decimals}f}"
    text = _grouped(digits, decimals, current_locale())
    return f"{MINUS}{text}" if value < 0 and float(digits) else text


@lru_cache(maxsize=FIGURES_KEPT)
def _grouped(digits: str, decimals: int, locale: str) -> str:
    from babel.numbers import format_decimal

    pattern = f"#,##0.{'0' * decimals}" if decimals else "#,##0"
    return str(format_decimal(Decimal(digits), pattern, locale=locale))


def read_number(text: str) -> float:
    """A figure as it was typed, by the same rules by which figures are shown.

    Raises:
        Refused: it is none, or could be read in two ways.
    """
    from babel.numbers import NumberFormatError, parse_decimal

    try:
        return float(parse_decimal(text.strip(), locale=current_locale(), strict=True))
    except NumberFormatError as error:
        said = " / ".join(str(suggestion) for suggestion in (error.suggestions or ()))
        raise Refused(TroubleCode.NOT_A_FIGURE, text=text, perhaps=said) from error


def list_separator() -> str:
    """What parts cells in a file of a spreadsheet: never what parts a figure's decimals."""
    return ";" if "," in number(0.5, 1) else ","


def plain(value: float, measure: Measure) -> str:
    """A figure in the places the book is kept in, without its unit."""
    return number(value, measure.terms.decimals)


def with_unit(value: float, measure: Measure) -> str:
    """A figure with its unit, such as "41.2 s"."""
    return f"{plain(value, measure)} {measure.terms.unit}".strip()


def units(amount: int, measure: Measure) -> str:
    """Whole book units as a figure without unit."""
    return plain(in_unit(amount, measure), measure)


def signed(value: float, measure: Measure) -> str:
    """A shift with its sign; less is a minus."""
    text = plain(value, measure)
    return f"+{text}" if value > 0 and text != plain(0.0, measure) else text


def tenths(value: float) -> str:
    """A figure to the tenth."""
    return number(value, 1)


def seconds(value: float, decimals: int = 1) -> str:
    """Seconds with their unit."""
    return f"{number(value, decimals)} s"


def milliseconds(value: float) -> str:
    """A short time, given in seconds, with its unit."""
    thousandths = 1000 * value
    return f"{number(thousandths, 0 if thousandths >= 10 else 1)} ms"


def percent(share: float, decimals: int = 0) -> str:
    """A share, 0 to 1, in percent."""
    return f"{number(100 * share, decimals)} %"


def between(low: str, high: str) -> str:
    """An interval, such as "11.9 to 16.8"."""
    return say("{low} to {high}", low=low, high=high)


def _instant(instant: datetime, pattern: str) -> str:
    from babel.dates import format_datetime

    return str(format_datetime(instant.astimezone(), pattern, locale=current_locale()))


def load_dates() -> None:
    """Load what dates are written with, which takes a moment the first time."""
    day(datetime.now(UTC))


def day(instant: datetime) -> str:
    """Day and month in the local zone, such as "12 Nov"."""
    return _instant(instant, say("d MMM"))


def whole_day(instant: datetime) -> str:
    """Such as "12 November 2026" in the local zone."""
    return _instant(instant, say("d MMMM y"))


def day_and_time(instant: datetime) -> str:
    """Such as "12 Nov 2026, 09:41" in the local zone."""
    return _instant(instant, say("d MMM y, HH:mm"))


def size(amount: float) -> str:
    """Bytes as MB, GB or TB, with three figures at most."""
    for unit, scale in (("TB", 1e12), ("GB", 1e9), ("MB", 1e6)):
        if amount >= scale:
            figure = amount / scale
            return f"{number(figure, 0 if figure >= 100 else 1 if figure >= 10 else 2)} {unit}"
    return f"{number(amount / 1e3)} kB"


def memory_size(amount: int) -> str:
    """Memory as it is sold: in powers of two."""
    if amount > 1.5 * 2**30:
        gigabytes = amount / 2**30
        whole = abs(gigabytes - round(gigabytes)) < 0.1
        return f"{number(gigabytes, 0 if whole else 1)} GB"
    return f"{number(amount / 2**20)} MB"


def length_of_time(length: float) -> str:
    """How long something has been going on, in the two largest units."""
    days, rest = divmod(int(length), 86_400)
    hours, rest = divmod(rest, 3600)
    if days:
        return f"{say_n('{n} day', '{n} days', days)} {say_n('{n} hour', '{n} hours', hours)}"
    minutes = say_n("{n} minute", "{n} minutes", rest // 60)
    return f"{say_n('{n} hour', '{n} hours', hours)} {minutes}" if hours else minutes


def round_span(length: float) -> str:
    """A length of time in the largest unit that has it whole, such as "15 min"."""
    for unit_seconds, unit in ((86_400, "d"), (3600, "h"), (60, "min")):
        if length >= unit_seconds and length % unit_seconds == 0:
            return f"{number(length / unit_seconds)} {unit}"
    return seconds(length, 0 if length.is_integer() else 1)


def about_so_long(length: float) -> str:
    """A length of time to half a minute, such as "2.5 min"; a short one in seconds."""
    if length < 90:
        return seconds(length, 0)
    halves = round(length / 30)
    return f"{number(halves / 2, halves % 2)} min"
