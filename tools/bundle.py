"""One archive that installs without a network: packages for several releases of Python, what a
desktop wants to know, and two scripts.

``python tools/bundle.py FOLDER`` writes ``FOLDER/plucky-ledger-VERSION-ARCHITECTURE.tar.gz``. What
is within has one date and one order: the same packages give the same bytes.
"""

import gzip
import io
import platform
import shutil
import subprocess
import sys
import tarfile
from pathlib import Path
from tempfile import TemporaryDirectory

from tools.policy import policy
from tools.share import PACKAGING, fill

from plucky_ledger import __version__

PROJECT = PACKAGING.parent
PYTHONS = ("3.11", "3.12", "3.13")
EXTRAS = "all"
PIP = (sys.executable, "-m", "pip", "--disable-pip-version-check", "--quiet")
CHANGED = 1_000_000_000
"""When everything in it was changed, in seconds of the epoch."""


def make(folder: Path) -> Path:
    """Make the archive; returns it. Raises OSError and CalledProcessError."""
    name = f"plucky-ledger-{__version__}-{platform.machine()}"
    with TemporaryDirectory() as place:
        root = Path(place) / name
        get_packages(root / "wheels")
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


def get_packages(wheels: Path) -> None:
    """Ours, and all it needs; what is for any Python is there once."""
    common = wheels / "common"
    common.mkdir(parents=True)
    subprocess.run([*PIP, "wheel", "--no-deps", f"--wheel-dir={common}", str(PROJECT)], check=True)
    (ours,) = common.glob("plucky_ledger-*.whl")
    constraint = f"--constraint={PROJECT / 'constraints.txt'}"
    for version in PYTHONS:
        target = wheels / version
        only = ("--only-binary=:all:", f"--python-version={version}", f"--dest={target}")
        subprocess.run([*PIP, "download", *only, constraint, f"{ours}[{EXTRAS}]"], check=True)
        for wheel in (*target.glob("*-none-any.whl"), *target.glob("*abi3*.whl")):
            wheel.replace(common / wheel.name)
    subprocess.run([*PIP, "download", "--no-deps", f"--dest={wheels}", "pip"], check=True)
    (installer,) = wheels.glob("pip-*.whl")
    installer.rename(wheels / "pip.whl")


def packed(root: Path) -> bytes:
    """A folder as an archive."""
    plain = io.BytesIO()
    with tarfile.open(fileobj=plain, mode="w", format=tarfile.PAX_FORMAT) as archive:
        for path in [root, *sorted(root.rglob("*"))]:
            archive.add(path, str(path.relative_to(root.parent)), recursive=False, filter=_alike)
    return gzip.compress(plain.getvalue(), compresslevel=1, mtime=CHANGED)


def _alike(member: tarfile.TarInfo) -> tarfile.TarInfo:
    mode = 0o755 if member.isdir() or member.name.endswith(".sh") else 0o644
    alike = {"mtime": CHANGED, "mode": mode, "uid": 0, "gid": 0, "uname": "root", "gname": "root"}
    return member.replace(**alike, deep=False)  # its archive is not to be copied with it


if __name__ == "__main__":
    sys.stdout.write(f"{make(Path(sys.argv[1]))}\n")
