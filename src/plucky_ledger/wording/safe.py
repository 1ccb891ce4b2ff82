"""Text from outside made fit to be shown: names, commands and messages of a customer's PC."""

LONGEST_TEXT = 300
_DIRECTION_MARKS = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\u200e\u200f")
"""They could make a name read backwards."""


def shown(text: str) -> str:
    """Hostile text made fit to be shown: bounded, control characters as symbols."""
    visible = "".join(
        chr(0x2400 + ord(char)) if ord(char) < 32 else "␡" if ord(char) == 127 else char
        for char in text[:LONGEST_TEXT]
        if not (0x80 <= ord(char) < 0xA0 or char in _DIRECTION_MARKS)
    )
    return visible + "…" if len(text) > LONGEST_TEXT else visible
