"""Text from outside made fit to be shown: names, commands and messages of a customer's PC."""

import re

LONGEST_TEXT = 300
_DIRECTION_MARKS = "\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069"
"""They could make a name read backwards."""
_CONTROLS = f"[\x00-\x1f\x7f-\x9f\ud800-\udfff\u2028\u2029{_DIRECTION_MARKS}]"
_CONTROLS_IN_LINES = _CONTROLS.replace("\x00-\x1f", "\x00-\x09\x0b-\x1f")
_IN_JSON = f"[\x7f-\x9f\u2028\u2029{_DIRECTION_MARKS}]"
"""Compiled when first used: most texts have none of them."""


FORMULAS = ("=", "+", "-", "@", "\t", "\r")
"""How a cell begins that a spreadsheet would work out."""


def as_cell(text: str) -> str:
    """Text for a cell of a spreadsheet, which works nothing out of what a PC calls its programs."""
    plain = " ".join(text.split("\t"))
    is_figure = plain[1:2].isdigit() and plain.startswith(("+", "-"))
    return f"'{plain}" if plain.startswith(FORMULAS) and not is_figure else plain


def shown(text: str) -> str:
    """Hostile text made fit to be shown in one line: bounded, control characters as symbols."""
    visible = _replaced(_CONTROLS, text[:LONGEST_TEXT])
    return visible + "…" if len(text) > LONGEST_TEXT else visible


def printable(text: str) -> str:
    """Text of several lines made fit for a terminal: line ends stay."""
    return _replaced(_CONTROLS_IN_LINES, text)


def escaped_in_json(text: str) -> str:
    """JSON without characters that a terminal takes for commands; it means the same."""
    return re.sub(_IN_JSON, lambda found: f"\\u{ord(found[0]):04x}", text)


def _replaced(controls: str, text: str) -> str:
    return text if text.isprintable() else re.sub(controls, _symbol, text)


def _symbol(found: re.Match[str]) -> str:
    code = ord(found[0])
    if code < 0x20:
        return chr(0x2400 + code)
    return "␡" if code == 0x7F else "\ufffd" if 0xD800 <= code < 0xE000 else ""
