"""How wide the parts of a line are, and its words in lines as they fit."""

from dataclasses import dataclass
from functools import lru_cache

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont, QFontMetrics

from plucky_ledger.ui.theme import digits_wide, scaled_font
from plucky_ledger.wording.book import RowWords
from plucky_ledger.wording.language import say

COLUMN_CHARACTERS = 7
"""Width of each amount column, in digits."""
SIGN_WIDTH = 34
MARGIN = 12
MARGIN_DIGITS = 14
"""The least width of the page, in digits: a margin with the balances."""
NARROW_DIGITS = 41
"""Below this width, a line is its sign, its name and its balance."""
NARROWEST_DIGITS = 24
"""Below this it is the margin alone."""
MOST_LINES = 3
"""Of the particulars of a line that is not selected; the selected one shows all."""


def margin_width() -> int:
    """The least width of the page, in pixels."""
    return digits_wide(MARGIN_DIGITS)


def narrow() -> int:
    """The least width of whole lines, in pixels."""
    return digits_wide(NARROW_DIGITS)


def narrowest() -> int:
    """The least width of lines with their names, in pixels."""
    return digits_wide(NARROWEST_DIGITS)


def column_width() -> int:
    """Width of one amount column: of its digits, or of the widest heading."""
    return _widest(scaled_font(1.0, bold=True).toString(), headings())


def headings() -> tuple[str, str, str]:
    """What stands above the amounts."""
    return say("Saved"), say("Lost"), say("Balance")


@lru_cache(maxsize=8)
def _widest(font: str, words: tuple[str, ...]) -> int:
    metrics = QFontMetrics(_font_of(font))
    return max(map(metrics.horizontalAdvance, ("0" * COLUMN_CHARACTERS, *words)))


@dataclass(frozen=True)
class LaidOut:
    """The words of a row in lines, as they fit."""

    particulars: list[str]
    remark: list[str]


def laid_out(words: RowWords, wide: int, font: QFont, whole: bool) -> LaidOut:
    """Words in lines, cut to a few unless they are wanted ``whole``."""
    return _kept_laid(words, wide, font.toString(), scaled_font(0.84).toString(), whole)


@lru_cache(maxsize=512)
def _kept_laid(words: RowWords, wide: int, font: str, small_font: str, whole: bool) -> LaidOut:
    """The same by the fonts' own names, so that it is laid out once."""
    metrics, small = (QFontMetrics(_font_of(name)) for name in (font, small_font))
    room = wide - SIGN_WIDTH - MARGIN
    beside = room - (_columns_used(words) if wide >= narrow() else 1) * column_width()
    return LaidOut(
        _wrapped(words.particulars, metrics, beside, None if whole else MOST_LINES),
        _wrapped(words.remark, small, room, None if whole else 1),
    )


def _font_of(name: str) -> QFont:
    font = QFont()
    font.fromString(name)
    return font


def _wrapped(text: str, metrics: QFontMetrics, room: int, most: int | None) -> list[str]:
    """Words in as few lines as they take; no more than ``most``, then the last is cut."""
    lines, line = [], ""
    for word in text.split(" "):
        longer = f"{line} {word}".strip()
        if line and metrics.horizontalAdvance(longer) > room:
            lines.append(line)
            line = word
        else:
            line = longer
    lines.append(line)
    if most is None or len(lines) <= most:
        return lines
    rest = " ".join(lines[most - 1 :])
    return [*lines[: most - 1], metrics.elidedText(rest, Qt.TextElideMode.ElideRight, room)]


def _columns_used(words: RowWords) -> int:
    return 3 if words.saved else 2 if words.lost else 1
