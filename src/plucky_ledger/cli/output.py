"""Everything the commands print. Text from outside is made fit for a terminal here, for all."""

import sys
from collections.abc import Iterable, Sequence
from typing import Any

import click

from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.wording.safe import escaped_in_json, printable

Cell = str | tuple[str, str]
"""One text, or one with a quieter one below it."""


def bear_any_terminal() -> None:
    """What a terminal has no characters for is written as escapes: no text is lost, none fails."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="backslashreplace")


def tell(text: str, *, err: bool = False) -> None:
    """Print text as it is: nothing in it is a command to the terminal."""
    click.echo(printable(text), err=err)


def answer_json(value: object) -> None:
    """Print a value of a page or the core as JSON."""
    import msgspec

    encoded = msgspec.json.encode(value, enc_hook=_plain, order="deterministic")
    click.echo(escaped_in_json(msgspec.json.format(encoded, indent=1).decode()))


def _plain(value: Any) -> Any:  # noqa: ANN401 whatever a page holds that JSON has no word for
    if isinstance(value, float):
        return float(value)
    if isinstance(value, Trouble):
        return {"code": value.code, "facts": value.facts}
    raise TypeError(f"no JSON for {type(value).__name__}")


class Paper:
    """Text and tables, dressed where the terminal can. What looks like markup stays text."""

    def __init__(self) -> None:
        from rich.console import Console

        self._console = Console(highlight=False, markup=False, emoji=False)

    def write(self, *texts: str, style: str = "") -> None:
        """Print texts that are not empty, one below the other."""
        for text in filter(None, texts):
            self._console.print(printable(text), style=style)

    def table(self, heads: Sequence[str], rows: Iterable[Sequence[Cell]]) -> None:
        """Print a table."""
        from rich.table import Table

        table = Table(*map(printable, heads))
        for row in rows:
            table.add_row(*map(_cell, row))
        self._console.print(table)


def _cell(cell: Cell) -> Any:  # noqa: ANN401 a text, or one of rich's, which is loaded late
    if isinstance(cell, str):
        return printable(cell)
    from rich.text import Text

    text, quieter = map(printable, cell)
    return Text.assemble(text, "\n", (quieter, "dim"))
