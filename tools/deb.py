"""Packages for Debian 13 and later from Debian's own Python packages.

``python tools/deb.py FOLDER [RELEASE]`` builds them in a clean system of that release, checks them
with lintian and leaves them in the folder. It takes root, or user namespaces, and mmdebstrap.

What is built is what git knows, with the date of its last commit: the same source gives the same
bytes. On a Debian 13 itself, ``python tools/deb.py --source FOLDER`` leaves a tree that
``dpkg-buildpackage`` takes.
"""

import shutil
import subprocess
import sys
from email.utils import format_datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from tools.source import changed_at, write_source

from plucky_ledger import __version__

RELEASE = "trixie"
NAME = "plucky-ledger"
MAINTAINER = "The makers of Plucky Ledger <bench@pluckyledger.example>"
NEEDED = ("build-essential", "dpkg-dev", "devscripts", "equivs", "lintian")
BUILT_IN = "/build"
_CHANGELOG = """\
{name} ({version}) unstable; urgency=medium

  * What is new is told in /usr/share/doc/{name}/changelog.gz.

 -- {maintainer}  {date}
"""
_BUILD = f"""\
set -e
cd {BUILT_IN}/source
mk-build-deps --install --remove --tool "apt-get --yes --no-install-recommends" debian/control \\
    > /dev/null
rm -f *-build-deps_*
dpkg-buildpackage --build=all,source --unsigned-source --unsigned-changes > ../log 2>&1 \\
    || {{ tail -n 60 ../log >&2; exit 1; }}
lintian --allow-root --tag-display-limit 0 --fail-on error,warning ../*.changes >&2
mkdir ../made
mv ../*.deb ../made/
"""


def build(folder: Path, release: str = RELEASE) -> list[Path]:
    """Build the packages; returns them. Raises OSError and CalledProcessError."""
    folder = folder.absolute()
    folder.mkdir(parents=True, exist_ok=True)
    with TemporaryDirectory() as place:
        place_path = Path(place)
        place_path.chmod(0o755)  # the builder may be another user
        write_debian_source(place_path / "build/source")
        (place_path / "build/build.sh").write_text(_BUILD)
        subprocess.run(
            [
                "mmdebstrap",
                "--quiet",
                "--variant=apt",
                f"--include={','.join(NEEDED)}",
                '--aptopt=APT::Install-Recommends "false"',
                f"--customize-hook=copy-in {place}/build /",
                f"--customize-hook=chroot $1 sh {BUILT_IN}/build.sh",
                f"--customize-hook=sync-out {BUILT_IN}/made {folder}",
                "--format=null",
                release,
                "/dev/null",
            ],
            check=True,
        )
    return sorted(folder.glob(f"{NAME}*_{__version__}_all.deb"))


def write_debian_source(target: Path) -> None:
    """The source, with ``debian`` where it belongs. Raises OSError and CalledProcessError."""
    write_source(target)
    shutil.copytree(target / "packaging/debian", target / "debian")
    changes = _CHANGELOG.format(
        name=NAME,
        version=__version__,
        maintainer=MAINTAINER,
        date=format_datetime(changed_at()),
    )
    (target / "debian/changelog").write_text(changes)


if __name__ == "__main__":
    if sys.argv[1] == "--source":
        write_debian_source(Path(sys.argv[2]))
    else:
        for made in build(Path(sys.argv[1]), *sys.argv[2:3]):
            sys.stdout.write(f"{made}\n")
