"""The one file: a shell's first lines, then our modules as Python 3.9 reads them.

The same source gives the same bytes.
"""

import ast
import io
import json
import zipfile
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from importlib.metadata import distribution
from importlib.resources import files
from importlib.resources.abc import Traversable
from pathlib import Path

from plucky_ledger import __version__
from plucky_ledger.linux.files import make_folder
from plucky_ledger.stick.modules import PACKAGE, modules_from
from plucky_ledger.stick.older_python import for_older
from plucky_ledger.stick.putting import put
from plucky_ledger.stick.words import NO_PYTHON

FILE, GUIDE = "plucky-ledger-stick", "READ ME FIRST.txt"
PROGRAM = "plucky_ledger.stick.program"
STAND_IN = "plucky_ledger.stick.plain"
"""Goes by the name of msgspec there."""
ALONGSIDE = ("plucky_ledger.stick.newer", "plucky_ledger.capture.arming.armed_recorder")
"""What is loaded by name: by the file's first lines, and by the copy that it leaves on a PC."""
WORDS = f"{PACKAGE}/stick/words.json"
DEBIANS_LICENCE = Path("/usr/share/doc/python3-jeepney/copyright")
"""Where its licence is told when it is a package of Debian."""
EARLIEST = (1980, 1, 1, 0, 0, 0)
"""The date of everything within: the first that a zip file can hold."""
EXECUTABLE = 0o755
PYTHONS = "python3 /usr/bin/python3 /usr/libexec/platform-python"
_SHELL = """\
#!/bin/sh
# Plucky Ledger for a stick: records how this PC starts. Everything is in this one file.
for python in {pythons}; do
  if "$python" -I -c 'import sys; sys.exit(sys.version_info < (3, 9))' 2>/dev/null; then
    exec "$python" -I "$0" "$@"
  fi
done
echo '{without_python}' >&2
exit 1
"""
_MAIN = """\
import sys
from pathlib import Path

from plucky_ledger.stick.program import main

sys.exit(main(Path(sys.argv[0]), sys.argv[1:]))
"""
_FIRST = f"""\
__version__ = "{__version__}"
CARRIED = True

from plucky_ledger.stick.newer import add_what_is_missing

add_what_is_missing()
"""

Words = Mapping[str, Mapping[str, str]]
"""By language, each message there: the English of the source to what is said."""


def write_stick(folder: Path, words: Callable[[tuple[str, ...]], Words], guide: str) -> Path:
    """Write the file and a guide into a folder, in the place of older ones; returns the file.

    ``words`` is asked for all messages of the program. Raises OSError.
    """
    path = folder / FILE
    data = stick_bytes(words)
    make_folder(folder)
    for name, content in ((FILE, data), (GUIDE, guide.encode("utf-8-sig"))):
        put(folder / name, content)
    with suppress(OSError):  # a stick's file system may have no modes, each says so differently
        path.chmod(EXECUTABLE)
    return path


def stick_bytes(words: Callable[[tuple[str, ...]], Words]) -> bytes:
    """The file as it is written."""
    modules = modules_from((PROGRAM, *ALONGSIDE))
    said = words(tuple(dict.fromkeys(_messages(modules))))
    without = said["en"][NO_PYTHON]
    head = _SHELL.format(pythons=PYTHONS, without_python=without.replace("'", "’"))
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as archive:
        for name, text in sorted(_contents(modules, said)):
            archive.writestr(zipfile.ZipInfo(name, EARLIEST), text, zipfile.ZIP_DEFLATED)
    return head.encode() + packed.getvalue()


def _contents(modules: Mapping[str, str], said: Words) -> Iterator[tuple[str, str]]:
    yield "__main__.py", _MAIN
    yield WORDS, json.dumps(said, ensure_ascii=False, sort_keys=True)
    for name, source in modules.items():
        is_first = name == "__init__.py"  # which refuses Python before 3.11 where it is installed
        yield f"{PACKAGE}/{name}", _FIRST if is_first else for_older(source)
    for name, source in modules_from((STAND_IN,)).items():
        part = name.removeprefix("stick/plain/")
        if part != name:
            yield f"msgspec/{part}", for_older(source.replace(STAND_IN, "msgspec"))
    yield from _package(files("jeepney"), "jeepney")
    yield "jeepney/LICENSE", _licence_of_jeepney()


def _licence_of_jeepney() -> str:
    own = (file for file in distribution("jeepney").files or () if "LICENSE" in file.name)
    for file in own:
        return file.read_text("utf-8")
    return DEBIANS_LICENCE.read_text("utf-8")


def _package(folder: Traversable, name: str) -> Iterator[tuple[str, str]]:
    """The modules of a package that is carried as it is."""
    for path in folder.iterdir():
        inside = f"{name}/{path.name}"
        if path.name.endswith(".py"):
            yield inside, path.read_text("utf-8")
        elif path.is_dir() and path.name not in {"tests", "__pycache__"}:
            yield from _package(path, inside)


def _messages(modules: Mapping[str, str]) -> Iterator[str]:
    """What the stick's own modules say: the first argument of each ``say``."""
    for name, source in sorted(modules.items()):
        if name.startswith("stick/"):
            for node in ast.walk(ast.parse(source)):
                if isinstance(node, ast.Call) and getattr(node.func, "id", "") in {"say", "N_"}:
                    (message, *_) = node.args
                    if isinstance(message, ast.Constant):
                        yield str(message.value)
