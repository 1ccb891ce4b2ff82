"""Our modules as Python 3.9 reads them: the same lines, but for what it has no word for."""

import ast
import builtins
from collections.abc import Iterator
from typing import NamedTuple

OLDEST = (3, 9)


class Edit(NamedTuple):
    """Text that takes the place of a stretch of a source, in its lines (from 1) and bytes."""

    line: int
    column: int
    to_line: int
    to_column: int
    text: str


def for_older(source: str) -> str:
    """A module's source with annotations that are not worked out, unions that are named, and zip
    without ``strict``.
    """
    tree = ast.parse(source)
    edits = [_future(tree), *_unions(tree), *_strict(tree)]
    lines = [line.encode() for line in source.splitlines(keepends=True)] or [b""]
    for edit in sorted(edits, reverse=True):
        before = lines[edit.line - 1][: edit.column]
        after = lines[edit.to_line - 1][edit.to_column :]
        lines[edit.line - 1 : edit.to_line] = [before + edit.text.encode() + after]
    return b"".join(lines).decode()


def _future(tree: ast.Module) -> Edit:
    """Right behind the module's docstring, before anything else."""
    head = tree.body[0] if tree.body and ast.get_docstring(tree) is not None else None
    line, column = (head.end_lineno or 1, head.end_col_offset or 0) if head else (1, 0)
    words = "from __future__ import annotations"
    return Edit(line, column, line, column, f"\n{words}" if head else f"{words}\n")


def _unions(tree: ast.Module) -> Iterator[Edit]:
    """``Line = A | B`` at the top of a module, where it names kinds."""
    for node in tree.body:
        if isinstance(node, ast.Assign) and (kinds := _kinds(node.value)):
            yield _instead(node.value, f'__import__("typing").Union[{", ".join(kinds)}]')


def _kinds(node: ast.expr) -> list[str]:
    """The names that are united, where all are those of kinds."""
    if not isinstance(node, ast.BinOp) or not isinstance(node.op, ast.BitOr):
        return []
    kinds: list[str] = []
    for side in (node.left, node.right):
        if isinstance(side, ast.Name) and _names_a_kind(side.id):
            kinds.append(side.id)
        elif isinstance(side, ast.Constant) and side.value is None:
            kinds.append("None")
        elif inner := _kinds(side):
            kinds.extend(inner)
        else:
            return []
    return kinds


def _names_a_kind(name: str) -> bool:
    return isinstance(vars(builtins).get(name), type) or (name[:1].isupper() and not name.isupper())


def _strict(tree: ast.Module) -> Iterator[Edit]:
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "zip":
            for keyword in node.keywords:
                before = node.args[-1]
                yield Edit(
                    before.end_lineno or 0,
                    before.end_col_offset or 0,
                    keyword.end_lineno or 0,
                    keyword.end_col_offset or 0,
                    "",
                )


def _instead(node: ast.expr, text: str) -> Edit:
    return Edit(node.lineno, node.col_offset, node.end_lineno or 0, node.end_col_offset or 0, text)
