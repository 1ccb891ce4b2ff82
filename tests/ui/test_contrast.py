"""Contrast of the colours that are painted, in each appearance. WCAG 2.2, 1.4.3 and 1.4.11."""

import re
from pathlib import Path

import pytest

import plucky_ledger
from plucky_ledger.ui.theme import (
    CONTRAST,
    DARK,
    LIGHT,
    Appearance,
    follow_the_desktop,
    ink,
    scaled_font,
    show_in,
)

TEXT, EDGE = 4.5, 3.0
WORDS = ("ink", "pencil", "saved", "lost", "memory", "processes")
EDGES = ("edge", "cpu", "disk", "memory", "processes", "saved")


def luminance(colour: str) -> float:
    parts = (int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))
    linear = [p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return sum(weight * part for weight, part in zip((0.2126, 0.7152, 0.0722), linear, strict=True))


def ratio(one: str, other: str) -> float:
    darker, lighter = sorted((luminance(one), luminance(other)))
    return (lighter + 0.05) / (darker + 0.05)


@pytest.mark.parametrize("ink", [LIGHT, DARK, CONTRAST], ids=["light", "dark", "contrast"])
def test_words_and_edges_are_seen(ink):
    for ground in ("page", "paper"):
        for name in WORDS:
            assert ratio(getattr(ink, name), getattr(ink, ground)) >= TEXT, (name, ground)
        for name in EDGES:
            assert ratio(getattr(ink, name), getattr(ink, ground)) >= EDGE, (name, ground)
    for name in ("ink", "pencil"):
        assert ratio(getattr(ink, name), ink.wash) >= TEXT, name
    for name in ("cpu", "disk", "memory", "processes"):
        assert ratio(getattr(ink, name), ink.wash) >= EDGE, name
    assert ratio(ink.page, ink.ink) >= TEXT


def test_no_text_is_smaller_than_nine_points_and_high_contrast_follows_the_desktop(qapp):
    own = qapp.font().pointSizeF()
    assert scaled_font(0.5).pointSizeF() >= min(own, 9.0)
    source = Path(plucky_ledger.__file__).parent
    for path in [*source.rglob("ui/**/*.py"), *source.glob("exchange/templates/*")]:
        text = path.read_text("utf-8")
        assert "<small" not in text, path
        assert path.name == "theme.py" or "setPointSize" not in text, path
        for size, unit in re.findall(r"font-size[:=]\s*\"?([\d.]+)(pt|\")", text):
            assert float(size) >= (9.0 if unit == "pt" else 12.0), (path, size)
    try:
        follow_the_desktop(qapp, in_contrast=True)
        assert ink() is CONTRAST
        show_in(Appearance.LIGHT)  # chosen here, it goes before the desktop's wish
        assert ink() is LIGHT
    finally:
        show_in(Appearance.AS_DESKTOP)
        follow_the_desktop(qapp, in_contrast=False)
    assert ink() is not CONTRAST
