"""The administrator's own copy of the recorder: what runs as administrator at boot.

It lies where only the administrator writes, and runs with an interpreter that only the
administrator can change: so nobody else has a say in what runs.
"""

import compileall
import os
import shutil
from collections.abc import Sequence
from pathlib import Path

import msgspec

import plucky_ledger
from plucky_ledger.capture.arming.starters import own_interpreter
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import make_folder
from plucky_ledger.linux.trusted_files import only_the_administrator_changes

PARTS = ("core", "linux", "recording", "capture")
"""Parts of this program that the recorder is made of."""
READABLE = 0o644
_MAIN = b"""\
import sys
from pathlib import Path

from plucky_ledger.capture.arming.armed_recorder import record_for_the_system

sys.exit(record_for_the_system(Path(sys.argv[1]), Path(__file__).parent))
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
    packages = copy / "plucky_ledger"
    packages.mkdir(0o755)
    source = Path(plucky_ledger.__file__).parent
    _copy_file(source / "__init__.py", packages / "__init__.py")
    for part in parts:
        _copy_tree(source / part, packages / part)
    _copy_tree(Path(msgspec.__file__).parent, copy / "msgspec")
    try:
        import jeepney
    except ModuleNotFoundError:
        pass  # the recording says that the services are not known
    else:
        _copy_tree(Path(jeepney.__file__).parent, copy / "jeepney")
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


def _copy_tree(source: Path, target: Path) -> None:
    """Modules and libraries of a package; not what only lies beside them."""
    target.mkdir(0o755)
    for path in sorted(source.iterdir()):
        if path.is_dir() and path.name not in {"__pycache__", "tests"}:
            _copy_tree(path, target / path.name)
        elif path.suffix in {".py", ".so"}:
            _copy_file(path, target / path.name)


def _copy_file(source: Path, target: Path) -> None:
    shutil.copyfile(source, target)
    target.chmod(READABLE)
