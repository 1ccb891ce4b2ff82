"""Mutants: small faults put into the core one at a time, to see whether its nearest tests notice.

python -m tools.mutants [COUNT [SEED]] [--only MODULE]

A mutant is one changed operator, number or order of two values. The nearest tests are those whose
file imports the module, or one that is built directly upon it, and that of the kept figures; what
they pass is tried by all that ``make quick`` runs. A mutant that no test notices is printed with
its line: either a test is missing, or the change makes no difference, which is for a person to
judge.
"""

import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from copy import deepcopy
from dataclasses import dataclass
from functools import cache
from pathlib import Path

ROOT = Path(__file__).parent.parent
CORE = ROOT / "src/plucky_ledger/core"
TESTED_BY = ("tests/core", "tests/pages", "tests/usecases", "tests/wording")
FIGURES = "tests/cli/test_same_figures.py"
"""Every figure of kept ledgers and captured boots: nearest of all to what is worked out."""
AT_ONCE = 2
LONGEST_SECONDS = 1200
COMPARED = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
}
CALCULATED = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult}
CALLED = {"min": "max", "max": "min", "any": "all", "all": "any", "minimum": "maximum"}


@dataclass(frozen=True)
class Mutant:
    """One fault: a module with one node changed."""

    path: Path
    at: int
    """Which node, in the order of a walk through the module."""

    @property
    def before(self) -> ast.AST:
        """The node as it is."""
        return list(ast.walk(_parsed(self.path)))[self.at]

    @property
    def after(self) -> ast.AST:
        """The node as it is changed."""
        return _changed(self.before)

    @property
    def source(self) -> str:
        """The module with the fault."""
        tree = deepcopy(_parsed(self.path))
        list(ast.walk(tree))[self.at].__dict__.update(self.after.__dict__)
        return ast.unparse(ast.fix_missing_locations(tree))

    def __str__(self) -> str:
        where = f"{self.path.relative_to(ROOT)}:{getattr(self.before, 'lineno', 0)}"
        return f"{where}: {ast.unparse(self.before)}  →  {ast.unparse(self.after)}"


@cache
def _parsed(path: Path) -> ast.Module:
    return ast.parse(path.read_text())


def mutants_of(path: Path) -> list[Mutant]:
    """Every mutant of a module."""
    tree = _parsed(path)
    types = {id(node) for part in _annotations(tree) for node in ast.walk(part)}
    return [
        Mutant(path, at)
        for at, node in enumerate(ast.walk(tree))
        if id(node) not in types and _changed(node) is not None
    ]


def _annotations(tree: ast.Module) -> Iterator[ast.AST]:
    """Types say nothing that a test could notice."""
    for node in ast.walk(tree):
        for part in (getattr(node, "annotation", None), getattr(node, "returns", None)):
            if part is not None:
                yield part
        if isinstance(node, ast.Subscript):
            yield from [node.slice] if isinstance(node.slice, ast.Tuple) else []


def _changed(node: ast.AST) -> ast.AST | None:
    """The node with one fault; None where there is none to be put in."""
    other = deepcopy(node)
    match other:
        case ast.Compare(ops=[op]) if type(op) in COMPARED:
            other.ops = [COMPARED[type(op)]()]
        case ast.BinOp(op=op) if type(op) in CALCULATED:
            other.op = CALCULATED[type(op)]()
        case ast.BoolOp(op=op):
            other.op = ast.Or() if isinstance(op, ast.And) else ast.And()
        case ast.Constant(value=value) if type(value) is int:
            other.value = value + 1
        case ast.Constant(value=value) if type(value) is float:
            other.value = value * 1.5 + (value == 0)
        case ast.Call(func=ast.Name(id=name)) if name in CALLED:
            other.func = ast.Name(CALLED[name], ast.Load())
        case ast.Tuple(elts=[first, second], ctx=ast.Load()) if ast.dump(first) != ast.dump(second):
            other.elts = [second, first]
        case ast.UnaryOp(op=ast.USub(), operand=operand):
            other = ast.UnaryOp(ast.UAdd(), operand)
        case _:
            return None
    return other


@cache
def nearest_tests(path: Path) -> tuple[str, ...]:
    """The test files that import a module, those that import what is built upon it, and that of
    the kept figures.
    """
    files = _quick_tests()
    upon = [other for other in CORE.rglob("*.py") if _imports(other, path)]
    direct = [file for file in files if _imports(file, path)]
    others = [file for file in files if any(_imports(file, module) for module in upon)]
    return (*dict.fromkeys(str(file.relative_to(ROOT)) for file in (*direct, *others)), FIGURES)


@cache
def _quick_tests() -> list[Path]:
    return [file for folder in TESTED_BY for file in sorted((ROOT / folder).glob("test_*.py"))]


def _other_tests(nearest: Sequence[str]) -> list[str]:
    """All that run in a minute, but for those."""
    names = [str(file.relative_to(ROOT)) for file in _quick_tests()]
    return [name for name in names if name not in nearest]


@cache
def _imports(file: Path, path: Path) -> bool:
    module = ".".join(path.relative_to(ROOT / "src").with_suffix("").parts)
    return f"{module} import" in file.read_text()


def survives(mutant: Mutant) -> bool:
    """Whether no test notices it: neither the nearest, nor any of those that run in a minute."""
    with _copied_sources() as folder:
        changed = Path(folder) / mutant.path.relative_to(ROOT)
        changed.write_text(mutant.source)
        nearest = nearest_tests(mutant.path)
        return _passes(folder, nearest) and _passes(folder, _other_tests(nearest))


def pass_as_they_are() -> bool:
    """Whether the tests pass without a fault: a test that fails anyway would notice all of them."""
    with _copied_sources() as folder:
        return _passes(folder, (*TESTED_BY, FIGURES))


@contextmanager
def _copied_sources() -> Iterator[str]:
    with tempfile.TemporaryDirectory(prefix="mutant-") as folder:
        kept = shutil.ignore_patterns("__pycache__")
        shutil.copytree(ROOT / "src", Path(folder) / "src", ignore=kept)
        yield folder


def _passes(folder: str, tests: Sequence[str]) -> bool:
    """Whether these tests pass with the sources in a folder."""
    # Always the same examples, none kept: one that fails for all would notice every mutant.
    drawn = "--hypothesis-profile=mutants"
    options = (drawn, "-q", "-x", "-m", "not study", "-p", "no:cacheprovider", "--basetemp")
    try:
        done = subprocess.run(
            [sys.executable, "-m", "pytest", *options, f"{folder}/tests", *tests],
            cwd=ROOT,
            env={**os.environ, "PYTHONPATH": f"{folder}/src:{ROOT}"},
            capture_output=True,
            timeout=LONGEST_SECONDS,
            check=False,
        )
    except subprocess.TimeoutExpired:
        return False  # it goes on for ever: noticed
    return done.returncode == 0


def main(count: int = 40, seed: int = 0, only: str = "") -> int:
    """Try so many mutants, chosen at random from all of the core that has tests of its own."""
    paths = [path for path in sorted(CORE.rglob("*.py")) if only in str(path)]
    tested = [path for path in paths if {*nearest_tests(path)} - {FIGURES}]
    every = [mutant for path in tested for mutant in mutants_of(path)]
    chosen = random.Random(seed).sample(every, min(count, len(every)))
    if not pass_as_they_are():
        sys.stdout.write("The tests do not pass as they are; nothing was tried.\n")
        return 1
    left = []
    with ThreadPoolExecutor(AT_ONCE) as pool:
        for mutant, alive in zip(chosen, pool.map(survives, chosen), strict=True):
            if alive:
                left.append(mutant)
                sys.stdout.write(f"{mutant}\n")
                sys.stdout.flush()
    caught = len(chosen) - len(left)
    sys.stdout.write(
        f"{caught} of {len(chosen)} mutants noticed ({caught / max(len(chosen), 1):.0%}), "
        f"of {len(every)} in {len(tested)} of {len(paths)} modules\n"
    )
    return 0


if __name__ == "__main__":
    arguments = [text for text in sys.argv[1:] if not text.startswith("--")]
    named = [text.removeprefix("--only=") for text in sys.argv[1:] if text.startswith("--only=")]
    sys.exit(main(*map(int, arguments), only=named[0] if named else ""))
