"""A release, whole, by one command: ``python tools/release.py FOLDER [--twice]``.

The version is that of the tag on the last commit, ``v0.2.0`` for ``0.2.0``; the program, the list
of changes and the description for software centres have to say the same. Into the folder come the
wheel, the source, the archive that installs without a network, the packages for Debian, what all of
it is made of (CycloneDX) and the checksums. With ``--twice`` everything is built once more, and has
to come out in the same bytes.
"""

import gzip
import hashlib
import io
import os
import subprocess
import sys
import tarfile
import xml.etree.ElementTree as ET
from pathlib import Path
from tempfile import TemporaryDirectory

from tools.bundle import PIP, alike, build_wheel
from tools.bundle import make as make_bundle
from tools.deb import build as build_packages
from tools.source import PROJECT, changed_at, git, write_source

from plucky_ledger import __version__

CHECKSUMS = "SHA256SUMS"
METAINFO = "packaging/share/metainfo/example.pluckyledger.PluckyLedger.metainfo.xml"


class NotReleased(Exception):
    """What speaks against it, in a sentence."""


def release(folder: Path) -> Path:
    """Build everything; returns the file of checksums. Raises CalledProcessError, OSError."""
    folder.mkdir(parents=True)
    wheel = build_wheel(folder)
    build_source(folder)
    make_bundle(folder)
    build_packages(folder)
    (folder / f"plucky-ledger-{__version__}.cdx.json").write_bytes(bill_of_materials(wheel))
    made = sorted(path for path in folder.iterdir() if path.suffix != ".buildinfo")
    lines = (f"{hashlib.sha256(path.read_bytes()).hexdigest()}  {path.name}\n" for path in made)
    sums = folder / CHECKSUMS
    sums.write_text("".join(lines), "utf-8")
    return sums


def agreed() -> None:
    """Raises NotReleased where tag, program, changes and description do not say one version."""
    try:
        tag = git("describe", "--exact-match", "--tags", "HEAD").strip()
    except subprocess.CalledProcessError as error:
        raise NotReleased(
            f"The last commit has no tag: git tag --annotate v{__version__}"
        ) from error
    if git("status", "--porcelain"):
        raise NotReleased("There are changes that are not committed.")
    told = {
        "the tag": tag.removeprefix("v"),
        "the program": __version__,
        "CHANGELOG.md": _newest_changes(),
        METAINFO: _described(),
    }
    if len(set(told.values())) != 1:
        raise NotReleased("; ".join(f"{where} says {version}" for where, version in told.items()))


def build_source(folder: Path) -> None:
    """The source as an archive that pip takes, its members with one date. Raises OSError."""
    with TemporaryDirectory() as place:
        write_source(Path(place) / "source")
        backend = "import setuptools.build_meta as b, sys; b.build_sdist(sys.argv[1])"
        subprocess.run(
            [sys.executable, "-c", backend, place],
            cwd=Path(place) / "source",
            check=True,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        (made,) = Path(place).glob("*.tar.gz")
        (folder / made.name).write_bytes(_repacked(made))


def bill_of_materials(wheel: Path) -> bytes:
    """What an install with everything consists of, with versions and licences."""
    with TemporaryDirectory() as place:
        subprocess.run([sys.executable, "-m", "venv", "--without-pip", place], check=True)
        python = Path(place) / "bin/python"
        constraint = f"--constraint={PROJECT / 'constraints.txt'}"
        within = [*PIP, f"--python={python}", "install", constraint, f"{wheel}[all]"]
        subprocess.run(within, check=True)
        listed = subprocess.run(
            [
                sys.executable,
                "-m",
                "cyclonedx_py",
                "environment",
                "--output-reproducible",
                "--output-format=JSON",
                f"--pyproject={PROJECT / 'pyproject.toml'}",
                str(python),
            ],
            check=True,
            capture_output=True,
        )
    return listed.stdout.replace(str(wheel.parent).encode(), b".")


def _repacked(archive: Path) -> bytes:
    plain = io.BytesIO()
    with tarfile.open(archive) as had, tarfile.open(fileobj=plain, mode="w") as written:
        for member in sorted(had.getmembers(), key=lambda one: one.name):
            content = had.extractfile(member) if member.isfile() else None
            written.addfile(alike(member), content)
    return gzip.compress(plain.getvalue(), mtime=int(changed_at().timestamp()))


def _newest_changes() -> str:
    headings = (
        line.removeprefix("## ").split(" ")[0]
        for line in (PROJECT / "CHANGELOG.md").read_text("utf-8").splitlines()
        if line.startswith("## ")
    )
    return next(headings, "nothing")


def _described() -> str:
    newest = ET.parse(PROJECT / METAINFO).getroot().find("releases/release")
    return "" if newest is None else newest.get("version", "")


def main(folder: Path, *, twice: bool) -> None:
    """Make the release. Raises NotReleased."""
    agreed()
    os.umask(0o022)
    sums = release(folder)
    if twice:
        with TemporaryDirectory() as place:
            again = release(Path(place) / "again").read_text("utf-8")
        others = set(sums.read_text("utf-8").splitlines()) ^ set(again.splitlines())
        if others:
            raise NotReleased(f"Other bytes: {sorted({line.split()[1] for line in others})}")
    sys.stdout.write(sums.read_text("utf-8"))


if __name__ == "__main__":
    try:
        main(Path(sys.argv[1]).absolute(), twice="--twice" in sys.argv[2:])
    except NotReleased as error:
        sys.exit(str(error))
