"""Collect every message of the source for translators, and compile what they have translated.

``python tools/messages.py`` writes ``plucky_ledger.pot``, brings each ``plucky_ledger.po`` up to
date with it (what is new stays empty, what is gone is dropped) and compiles it. Messages are the
literal arguments of the functions that say or mark one, also within an f-string.
"""

import ast
import sys
from collections.abc import Iterator
from pathlib import Path

from babel.messages.catalog import Catalog, Message
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

SOURCE = Path(__file__).parent.parent / "src" / "plucky_ledger"
FOLDER = SOURCE / "wording" / "locale"
DOMAIN = "plucky_ledger"
CONTEXT_ENDS = "\x04"
MARKS = {
    *("say", "N_", "_with_because", "_how_many", "_word", "_differs", "_differs_in_text"),
    "_unproven",
}
"""Functions whose first argument is a message."""
PLURALS = {"say_n", "_sized", "_one_or_many"}
"""Functions whose first two arguments are one message about one thing and about several."""


def messages(source: Path = SOURCE) -> Iterator[str | tuple[str, str]]:
    """Every message, in the order of files and places; a message about a number is a pair."""
    for path in sorted(source.rglob("*.py")):
        nodes = ast.walk(ast.parse(path.read_text()))
        calls = [node for node in nodes if isinstance(node, ast.Call)]
        for call in sorted(calls, key=lambda call: (call.lineno, call.col_offset)):
            name = getattr(call.func, "id", "")
            texts = [
                argument.value
                for argument in call.args[:2]
                if isinstance(argument, ast.Constant) and isinstance(argument.value, str)
            ]
            if name in MARKS and texts:
                yield texts[0]
            elif name == "C_" and len(texts) == 2:
                yield CONTEXT_ENDS.join(texts)
            elif name in PLURALS and len(texts) == 2:
                yield texts[0], texts[1]


def help_messages(folder: Path = SOURCE / "cli") -> Iterator[str]:
    """The help of commands: what their functions' docstrings and their options' ``help`` say."""
    for path in sorted(folder.glob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.FunctionDef) and any(
                map(_makes_a_command, node.decorator_list)
            ):
                yield ast.get_docstring(node) or ""
            elif isinstance(node, ast.keyword) and node.arg == "help":
                yield getattr(node.value, "value", "")  # what is no literal is marked by itself


def _makes_a_command(decorator: ast.expr) -> bool:
    call = decorator.func if isinstance(decorator, ast.Call) else decorator
    return isinstance(call, ast.Attribute) and call.attr in {"command", "group"}


def collected() -> Catalog:
    """The catalogue that is to be translated."""
    catalog = Catalog(project="plucky-ledger", charset="utf-8")
    for message in (*messages(), *filter(None, help_messages())):
        context, _, words = (
            message.rpartition(CONTEXT_ENDS) if isinstance(message, str) else ("", "", message)
        )
        catalog.add(words, context=context or None)
    return catalog


def is_translated(message: Message) -> bool:
    """Whether a message has words, in each form that the language has."""
    string = message.string
    return bool(string) if isinstance(string, str) else bool(string) and all(string)


def main() -> int:
    """Write the template, and bring every catalogue up to date; returns the exit status."""
    template = collected()
    FOLDER.mkdir(exist_ok=True)
    with (FOLDER / f"{DOMAIN}.pot").open("wb") as file:
        write_po(file, template, width=100, no_location=True)
    for path in sorted(FOLDER.glob(f"*/LC_MESSAGES/{DOMAIN}.po")):
        with path.open("rb") as file:
            catalog = read_po(file, locale=path.parent.parent.name, domain=DOMAIN)
        catalog.update(template, no_fuzzy_matching=True)
        catalog.obsolete.clear()
        with path.open("wb") as file:
            write_po(file, catalog, width=100, no_location=True)
        with path.with_suffix(".mo").open("wb") as file:
            write_mo(file, catalog)
        missing = sum(not is_translated(message) for message in catalog if message.id)
        sys.stdout.write(f"{path.parent.parent.name}: {missing} of {len(catalog)} missing\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())
