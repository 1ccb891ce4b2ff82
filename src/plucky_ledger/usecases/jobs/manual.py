"""The manual inside the program, and the method pages it leads to."""

from enum import StrEnum
from importlib.resources import files

ENGLISH = "en"
"""Every part is written in it; a translation has the same sections in the same order."""


class Part(StrEnum):
    """The two parts of the book about this program."""

    MANUAL = "manual"
    METHODS = "methods"


def text_of(part: Part, language: str = ENGLISH) -> str:
    """A part as Markdown, in a language; in English where it is not translated."""
    folder = files("plucky_ledger").joinpath("manual")
    translated = folder.joinpath(language, f"{part}.md")
    return (translated if translated.is_file() else folder.joinpath(f"{part}.md")).read_text(
        "utf-8"
    )


def headings(part: Part, language: str = ENGLISH) -> tuple[str, ...]:
    """The headings of its sections, in their order."""
    lines = text_of(part, language).splitlines()
    return tuple(line.removeprefix("## ") for line in lines if line.startswith("## "))


def heading_in(part: Part, heading: str, language: str) -> str:
    """What a section of the English part is headed in another language."""
    english = headings(part)
    at = english.index(heading) if heading in english else 0
    return headings(part, language)[at]
