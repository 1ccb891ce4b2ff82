"""Which modules of ours go onto the stick: what its program imports, and what those import."""

import ast
from collections.abc import Iterator
from importlib.resources import files

PACKAGE = "plucky_ledger"


def modules_from(roots: tuple[str, ...]) -> dict[str, str]:
    """The source of all modules of ours that are needed, by the file's name within the package."""
    found: dict[str, str] = {}
    waiting = list(roots)
    seen: set[str] = set()
    while waiting:
        module = waiting.pop()
        if module in seen or not module.startswith(PACKAGE):
            continue
        seen.add(module)
        place = _place(module)
        if place is None:  # a name that is imported from a module
            continue
        name, source = place
        found[name] = source
        waiting.append(module.rpartition(".")[0])
        waiting.extend(_imported(source))
    return found


def _place(module: str) -> tuple[str, str] | None:
    parts = module.split(".")[1:]
    package = files(PACKAGE)
    for name in ("/".join([*parts, "__init__.py"]), f"{'/'.join(parts)}.py"):
        if parts or name == "__init__.py":
            path = package.joinpath(name)
            if path.is_file():
                return name, path.read_text("utf-8")
    return None


def _imported(source: str) -> Iterator[str]:
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Import):
            yield from (one.name for one in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module:
            yield node.module
            yield from (f"{node.module}.{one.name}" for one in node.names)
