"""The manual inside the program, and the method pages it leads to."""

from enum import StrEnum
from importlib.resources import files


class Part(StrEnum):
    """The two parts of the book about this program."""

    MANUAL = "manual"
    METHODS = "methods"


def text_of(part: Part) -> str:
    """A part as Markdown."""
    return files("plucky_ledger").joinpath("manual", f"{part}.md").read_text("utf-8")


def headings(part: Part) -> tuple[str, ...]:
    """The headings of its sections, in their order."""
    lines = text_of(part).splitlines()
    return tuple(line.removeprefix("## ") for line in lines if line.startswith("## "))
