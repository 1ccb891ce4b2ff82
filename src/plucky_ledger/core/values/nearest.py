"""Names that are like one that was not found."""

from collections.abc import Iterable

MOST_NAMED = 3
ALIKE = 0.5
"""Likeness from which one may have been meant, 0 to 1."""


def nearest(wanted: str, known: Iterable[str]) -> list[str]:
    """Those of the known names that may have been meant, the likeliest first."""
    from difflib import get_close_matches  # few names are mistyped: not at the start

    names = {name.casefold(): name for name in reversed(list(known))}
    sought = wanted.casefold()
    within = [name for folded, name in names.items() if sought and sought in folded]
    alike = get_close_matches(sought, names, MOST_NAMED, ALIKE)
    return list(dict.fromkeys([*within, *(names[folded] for folded in alike)]))[:MOST_NAMED]
