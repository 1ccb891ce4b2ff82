"""The program on the real PC's disk, as a technician would install it: from its wheel, with pip."""

import shutil
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from tests.real_pc.disk import MANAGED, kept_disk, run
from tests.real_pc.pc import RealPc

PROJECT = Path(__file__).parents[2]
IN_WHEELS = "/tmp/wheels"


@contextmanager
def bench_pc(title: str) -> Iterator[tuple[RealPc, str]]:
    """A real PC that is switched on, and the label of a job about it. Raises NotHere."""
    with TemporaryDirectory() as folder:
        disk = installed_disk(Path(folder))
        pc = RealPc(disk)
        pc.switch_on()
        pc.wait_until_up()
        yield pc, pc.run("plucky-ledger", "take-in", "--this-pc", "--new", title, user=True).strip()
        pc.switch_off()
        shutil.rmtree(disk, ignore_errors=True)


def installed_disk(folder: Path, started_by: str = MANAGED) -> Path:
    """A copy of the kept disk with the program installed. Raises NotHere."""
    disk = folder / "disk"
    run("cp", "-a", "--reflink=auto", str(kept_disk(started_by)), str(disk))
    wheels = disk / IN_WHEELS.lstrip("/")
    pip = (sys.executable, "-m", "pip")
    run(*pip, "wheel", "--quiet", "--no-deps", "--wheel-dir", str(wheels), str(PROJECT))
    (wheel,) = wheels.glob("*.whl")
    run(
        *pip,
        "download",
        "--quiet",
        "--only-binary=:all:",
        f"--python-version={python_of(disk)}",
        f"--dest={wheels}",
        f"--constraint={PROJECT / 'constraints.txt'}",
        f"{wheel}[numerics]",
    )
    run("chroot", str(disk), "python3", "-m", "venv", "/opt/plucky")
    run(
        "chroot",
        str(disk),
        "/opt/plucky/bin/pip",
        "install",
        "--quiet",
        "--no-index",
        "--find-links",
        IN_WHEELS,
        "plucky-ledger[numerics]",
    )
    (disk / "usr/local/bin/plucky-ledger").symlink_to("/opt/plucky/bin/plucky-ledger")
    shutil.rmtree(wheels)
    return disk


def python_of(disk: Path) -> str:
    """The PC's version of Python, such as "3.11": it need not be the one we run with."""
    (library,) = (disk / "usr/lib").glob("python3.*")
    return library.name.removeprefix("python")
