"""An own copy of the recorder: what runs at boot where the installed program may not, or is none.

The administrator's lies where only the administrator writes, and runs with an interpreter that only
the administrator can change: so nobody else has a say in what runs. A user has one where the
program came on a stick, which may be gone by then.
"""

import compileall
import os
import shutil
from collections.abc import Sequence
from contextlib import suppress
from importlib.resources import files
from pathlib import Path
from typing import TYPE_CHECKING

import plucky_ledger
from plucky_ledger.capture.arming.starters import own_interpreter
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import make_folder
from plucky_ledger.linux.trusted_files import only_the_administrator_changes

if TYPE_CHECKING:
    from importlib.resources.abc import Traversable

PROGRAM = "plucky_ledger"
PARTS = ("core", "linux", "recording", "capture")
"""Parts of this program that the recorder is made of; what came on a stick is copied whole."""
PACKAGES = ("msgspec", "jeepney")
"""What they need; without the second the recording says that the services are not known."""
READABLE = 0o644
CODE = (".py", ".so")
_MAIN = b"""\
import sys
from pathlib import Path

from plucky_ledger.capture.arming.armed_recorder import record_from_a_copy

sys.exit(record_from_a_copy(Path(sys.argv[1]), Path(__file__).parent))
"""


class NotCopied(Trouble):
    """The recorder could not be put where only the administrator writes."""


def install(copy: Path, parts: Sequence[str] = PARTS, main: bytes = _MAIN) -> None:
    """Put a copy of the recorder there, or of other parts, in the place of one that was there.

    Raises:
        NotCopied: the interpreter can be changed by others than the administrator.
        OSError: it could not be written.
    """
    for needed in (own_interpreter(), os.path.realpath(os.__file__)):
        if os.geteuid() == 0 and not only_the_administrator_changes(Path(needed)):
            raise NotCopied(TroubleCode.INTERPRETER_OF_OTHERS, path=needed)
    remove(copy)
    make_folder(copy, 0o755)
    source = files(PROGRAM)
    if plucky_ledger.CARRIED:
        _copy_tree(source, copy / PROGRAM)
    else:
        (copy / PROGRAM).mkdir(0o755)
        _copy_file(source / "__init__.py", copy / PROGRAM / "__init__.py")
        for part in parts:
            _copy_tree(source / part, copy / PROGRAM / part)
    for package in PACKAGES:
        with suppress(ModuleNotFoundError):
            _copy_tree(files(package), copy / package)
    (copy / "__main__.py").write_bytes(main)
    compileall.compile_dir(copy, quiet=2)
    os.sync()  # once for all: what starts it is written after this


def remove(copy: Path) -> bool:
    """Remove a copy; False when there was none. Raises OSError."""
    try:
        shutil.rmtree(copy)
    except FileNotFoundError:
        return False
    if not any(copy.parent.iterdir()):
        copy.parent.rmdir()
    return True


def _copy_tree(source: "Traversable", target: Path) -> None:
    """Modules and libraries of a package; not what only lies beside them."""
    target.mkdir(0o755)
    for path in source.iterdir():
        if path.is_dir() and path.name not in {"__pycache__", "tests"}:
            _copy_tree(path, target / path.name)
        elif path.name.endswith(CODE):
            _copy_file(path, target / path.name)


def _copy_file(source: "Traversable", target: Path) -> None:
    target.write_bytes(source.read_bytes())
    target.chmod(READABLE)
