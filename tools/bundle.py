"""One archive that installs without a network: packages for several releases of Python, what a
desktop wants to know, and two scripts.

``python tools/bundle.py FOLDER`` writes ``FOLDER/plucky-ledger-VERSION-ARCHITECTURE.tar.gz``. What
is within has one date and one order: the same packages give the same bytes. Packages of others are
those whose checksums are in ``packaging/packages.sha256``; ``--accept`` in place of a folder writes
down those that are had now.
"""

import gzip
import hashlib
import io
import os
import platform
import shutil
import subprocess
import sys
import tarfile
from copy import copy
from pathlib import Path
from tempfile import TemporaryDirectory

from tools.policy import policy
from tools.share import PACKAGING, fill
from tools.source import PROJECT, changed_at, write_source

from plucky_ledger import __version__

PYTHONS = ("3.11", "3.12", "3.13")
EXTRAS = "all"
PIP = (sys.executable, "-m", "pip", "--disable-pip-version-check", "--quiet")
CHECKSUMS = PACKAGING / "packages.sha256"
CHANGED = 1_000_000_000
"""When everything in it was changed, in seconds of the epoch."""


class NotThose(Exception):
    """Packages are not the ones whose checksums are kept; says which."""


def make(folder: Path) -> Path:
    """Make the archive; returns it. Raises NotThose, OSError and CalledProcessError."""
    name = f"plucky-ledger-{__version__}-{platform.machine()}"
    with TemporaryDirectory() as place:
        root = Path(place) / name
        check(get_packages(root / "wheels"))
        fill(root)
        (root / "example.pluckyledger.policy").write_text(policy(), "utf-8")
        for script in sorted((PACKAGING / "bundle").iterdir()):
            shutil.copy(script, root / script.name)
        for beside in ("LICENSE", "NOTICE"):
            shutil.copy(PROJECT / beside, root / beside)
        folder.mkdir(parents=True, exist_ok=True)
        archive = folder / f"{name}.tar.gz"
        archive.write_bytes(packed(root))
    return archive


def get_packages(wheels: Path) -> dict[str, str]:
    """Ours, and all it needs; what is for any Python is there once. Returns the checksums of what
    is of others, by file name.
    """
    common = wheels / "common"
    common.mkdir(parents=True)
    ours = build_wheel(common)
    constraint = f"--constraint={PROJECT / 'constraints.txt'}"
    for version in PYTHONS:
        target = wheels / version
        only = ("--only-binary=:all:", f"--python-version={version}", f"--dest={target}")
        subprocess.run([*PIP, "download", *only, constraint, f"{ours}[{EXTRAS}]"], check=True)
        (target / ours.name).unlink(missing_ok=True)
        for wheel in (*target.glob("*-none-any.whl"), *target.glob("*abi3*.whl")):
            wheel.replace(common / wheel.name)
    subprocess.run(
        [*PIP, "download", "--no-deps", constraint, f"--dest={wheels}", "pip"], check=True
    )
    others = {path.name: path for path in wheels.rglob("*.whl") if path != ours}
    had = {name: hashlib.sha256(path.read_bytes()).hexdigest() for name, path in others.items()}
    (installer,) = wheels.glob("pip-*.whl")
    installer.rename(wheels / "pip.whl")
    return had


def build_wheel(folder: Path) -> Path:
    """Our own, of a clean copy of the source; returns it. Raises CalledProcessError."""
    with TemporaryDirectory() as place:
        write_source(Path(place))
        subprocess.run(
            [*PIP, "wheel", "--no-deps", f"--wheel-dir={folder}", place],
            check=True,
            env={**os.environ, "SOURCE_DATE_EPOCH": str(int(changed_at().timestamp()))},
        )
    (wheel,) = folder.glob("plucky_ledger-*.whl")
    return wheel


def check(had: dict[str, str]) -> None:
    """Raises NotThose where a package is not the one that was accepted."""
    lines = (line.split() for line in CHECKSUMS.read_text("utf-8").splitlines())
    accepted = {name: checksum for checksum, name in lines}
    others = sorted(name for name, checksum in had.items() if accepted.get(name) != checksum)
    if others:
        raise NotThose(", ".join(others))


def accept(had: dict[str, str]) -> None:
    """Write down the packages as they are: from now on it is these."""
    lines = (f"{checksum}  {name}\n" for name, checksum in sorted(had.items()))
    CHECKSUMS.write_text("".join(lines), "utf-8")


def packed(root: Path) -> bytes:
    """A folder as an archive."""
    plain = io.BytesIO()
    with tarfile.open(fileobj=plain, mode="w", format=tarfile.PAX_FORMAT) as archive:
        for path in [root, *sorted(root.rglob("*"))]:
            archive.add(path, str(path.relative_to(root.parent)), recursive=False, filter=alike)
    return gzip.compress(plain.getvalue(), compresslevel=1, mtime=CHANGED)


def alike(member: tarfile.TarInfo) -> tarfile.TarInfo:
    """A member as it is put into an archive: of one date, and nobody's."""
    mode = 0o755 if member.isdir() or member.name.endswith(".sh") else 0o644
    alike = {"mtime": CHANGED, "mode": mode, "uid": 0, "gid": 0, "uname": "root", "gname": "root"}
    made = copy(member)
    for name, value in alike.items():
        setattr(made, name, value)
    made.pax_headers = {}  # which may tell times more exactly
    return made


if __name__ == "__main__":
    if sys.argv[1] == "--accept":
        with TemporaryDirectory() as place_of_wheels:
            accept(get_packages(Path(place_of_wheels) / "wheels"))
    else:
        sys.stdout.write(f"{make(Path(sys.argv[1]))}\n")
