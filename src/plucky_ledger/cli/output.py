"""Everything the commands print. Text from outside is made fit for a terminal here, for all."""

import shutil
import sys
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager

import click

from plucky_ledger.wording.safe import printable

WIDEST_CELL = 48
"""Characters after which a cell goes on in its next line, on a terminal."""
ERASED_LINE = "\r\033[K"
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


@contextmanager
def passing_line() -> Iterator[Callable[[str], None]]:
    """Takes what is going on: shown in one line of a terminal, which is empty again at the end."""
    shows = sys.stderr.isatty()

    def show(text: str) -> None:
        if shows:
            fits = printable(text).replace("\n", " ")[: _columns() - 1]
            click.echo(f"{ERASED_LINE}{fits}", nl=False, err=True)

    try:
        yield show
    finally:
        show("")


class Paper:
    """Text and tables, dressed where the terminal can."""

    def write(self, *texts: str, dim: bool = False, bold: bool = False) -> None:
        """Print texts that are not empty, one below the other."""
        for text in filter(None, texts):
            shown = _wrapped(printable(text))
            click.echo(click.style(shown, dim=dim, bold=bold) if dim or bold else shown)

    def table(self, heads: Sequence[str], rows: Iterable[Sequence[Cell]]) -> None:
        """Print a table."""
        from tabulate import tabulate

        cells = [[_cell(cell) for cell in row] for row in rows]
        heads = [printable(head) for head in heads]
        widest = WIDEST_CELL if sys.stdout.isatty() else None
        click.echo(tabulate(cells, heads, disable_numparse=True, maxcolwidths=widest))


def _cell(cell: Cell) -> str:
    return printable(cell if isinstance(cell, str) else "\n".join(cell))


def _wrapped(text: str) -> str:
    """Between words, where a terminal would break a line in the middle of one."""
    if not sys.stdout.isatty():
        return text
    return "\n".join(click.wrap_text(line, _columns()) for line in text.split("\n"))


def _columns() -> int:
    return shutil.get_terminal_size().columns
