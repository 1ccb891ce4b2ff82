"""What a desktop and a shell want to know of the installed program, made from what it says itself.

``python tools/share.py FOLDER`` fills ``FOLDER/share``: menu entry, icons, file types and
description as they lie in ``packaging/share``, icons in sizes, manual pages of all commands made
from their help, and completions for three shells.
"""

import gzip
import shutil
import sys
from collections.abc import Iterator
from pathlib import Path

import click

from plucky_ledger import __version__
from plucky_ledger.cli.completion import completion_class
from plucky_ledger.cli.main import COMPLETES, SHELLS, first_sentence, main

PACKAGING = Path(__file__).parent.parent / "packaging"
NAME = "plucky-ledger"
SIZES = (32, 48, 64, 128, 256)
COMPLETIONS = {
    "bash": f"bash-completion/completions/{NAME}",
    "zsh": f"zsh/site-functions/_{NAME}",
    "fish": f"fish/vendor_completions.d/{NAME}.fish",
}


def fill(folder: Path) -> None:
    """Fill ``folder/share``. Raises OSError."""
    share = folder / "share"
    shutil.copytree(PACKAGING / "share", share, dirs_exist_ok=True)
    draw_icons(share / "icons/hicolor")
    for name, page in manual_pages():
        _write(share / "man/man1" / f"{name}.1.gz", gzip.compress(page.encode(), mtime=0))
    for shell in SHELLS:
        source = completion_class(shell)(main, {}, NAME, COMPLETES).source()
        _write(share / COMPLETIONS[shell], source.encode())


def draw_icons(folder: Path) -> None:
    """Each drawing in sizes, for desktops that want no drawings."""
    from PySide6.QtGui import QGuiApplication, QImage, QPainter
    from PySide6.QtSvg import QSvgRenderer

    application = QGuiApplication.instance() or QGuiApplication(["share", "-platform", "offscreen"])
    for drawing in sorted(folder.glob("scalable/*/*.svg")):
        for size in SIZES:
            picture = QImage(size, size, QImage.Format.Format_ARGB32)
            picture.fill(0)
            painter = QPainter(picture)
            QSvgRenderer(str(drawing)).render(painter)
            painter.end()
            target = folder / f"{size}x{size}" / drawing.parent.name / f"{drawing.stem}.png"
            target.parent.mkdir(parents=True, exist_ok=True)
            picture.save(str(target))
    del application


def manual_pages() -> Iterator[tuple[str, str]]:
    """Name and text of each page: the program's, and one a command. man(7)."""
    context = click.Context(main, info_name=NAME)
    names = main.list_commands(context)
    commands = [(name, main.get_command(context, name)) for name in names]
    yield NAME, _page(NAME, main, [(n, first_sentence(c)) for n, c in commands if c is not None])
    for name, command in commands:
        if command is not None:
            inner = command.commands if isinstance(command, click.Group) else {}
            below = [(n, first_sentence(c)) for n, c in inner.items()]
            yield f"{NAME}-{name}", _page(f"{NAME} {name}", command, below)
            for n, c in inner.items():
                yield f"{NAME}-{name}-{n}", _page(f"{NAME} {name} {n}", c, [])


def _page(called: str, command: click.Command, others: list[tuple[str, str]]) -> str:
    context = click.Context(command, info_name=called)
    title = called.replace(" ", "-").upper()
    usage = " ".join(command.collect_usage_pieces(context))
    lines = [
        f'.TH "{title}" "1" "" "Plucky Ledger {__version__}" "Plucky Ledger"',
        ".ad l",  # words of commands are long
        ".SH NAME",
        f"{_plain(called.replace(' ', '-'))} \\- {_plain(first_sentence(command))}",
        ".SH SYNOPSIS",
        f".B {_plain(called)}",
        _plain(usage),
        ".SH DESCRIPTION",
        _plain(command.help or ""),
    ]
    options = [r for p in command.get_params(context) if (r := p.get_help_record(context))]
    for heading, rows in (("OPTIONS", options), ("COMMANDS", others)):
        if rows:
            lines.append(f".SH {heading}")
        for name, words in rows:
            lines += [".TP", f".B {_plain(name)}", _plain(words)]
    lines += [".SH SEE ALSO", f".BR {NAME} (1)"]
    return "\n".join(lines) + "\n"


def _plain(text: str) -> str:
    """Text as the page's language takes it: nothing in it is a request."""
    words = " ".join(text.split()).replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{words}" if words.startswith((".", "'")) else words


def _write(path: Path, data: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(data)


if __name__ == "__main__":
    fill(Path(sys.argv[1]))
