"""Packages nobody needs: by hand-made databases, and held against the package manager itself."""

import random
import shutil
import subprocess
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.packages.alpm import Alpm
from plucky_ledger.capture.packages.dpkg import BY_ITSELF, SETTINGS, STATUS
from plucky_ledger.capture.packages.packages import Package
from plucky_ledger.capture.packages.unneeded import NEVER, unneeded_packages

PACKAGES = """\
Package: harbour-desk
Status: install ok installed
Installed-Size: 900
Depends: librope2 (>= 2.0) | librope1, chart-data:any

Package: librope2
Status: install ok installed
Installed-Size: 100
Provides: librope (= 2.0)
Description: ropes
 Depends: nothing, this is prose

Package: tide-tables
Status: install ok installed
Installed-Size: 5000
Depends: librope, old-ropes

Package: old-ropes
Status: install ok installed
Installed-Size: 70

Package: gone
Status: deinstall ok config-files
Installed-Size: 40

Package: chart-data
Status: install ok installed

Package: linux-image-6.1.0-18
Status: install ok installed

Package: quay-9
Status: install ok installed

Package: base-of-all
Essential: yes
Status: install ok installed

Package: hours-of-day
Priority: required
Status: install ok installed
"""
CAME = (
    "librope2",
    "tide-tables",
    "old-ropes",
    "gone",
    "chart-data",
    "linux-image-6.1.0-18",
    "quay-9",
    "base-of-all",
    "hours-of-day",
)


def write(root, path, text):
    file = root / path
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text(text)


def states(names):
    return "\n\n".join(f"Package: {name}\nAuto-Installed: 1" for name in names)


def test_what_came_with_others_that_are_gone(tmp_path):
    write(tmp_path, STATUS, PACKAGES)
    write(tmp_path, BY_ITSELF, states(CAME))
    write(tmp_path, SETTINGS / "01keep", 'APT { NeverAutoRemove { "^quay-.*"; "^("; }; };')
    found = unneeded_packages(tmp_path)
    assert [(one.name, one.size_bytes) for one in found] == [
        ("tide-tables", 5000 * 1024),
        ("old-ropes", 70 * 1024),
    ]
    write(tmp_path, BY_ITSELF, states(name for name in CAME if name != "tide-tables"))
    assert unneeded_packages(tmp_path) == []
    assert unneeded_packages(tmp_path / "none") == []


def test_the_other_family_keeps_a_file_for_each_package(tmp_path):
    for name, reason, depends in (
        ("desk", "", "rope>=2\nsoname.so=1-64"),
        ("rope", "1", ""),
        ("left", "1", "rope"),
        ("provider", "1", ""),
    ):
        provides = "%PROVIDES%\nsoname.so=1-64\n\n" if name == "provider" else ""
        asked = f"%REASON%\n{reason}\n\n" if reason else ""
        text = (
            f"%NAME%\n{name}\n\n%VERSION%\n1-2\n\n%DESC%\nThe {name}\n\n%SIZE%\n4096\n\n{asked}"
            f"%DEPENDS%\n{depends}\n\n{provides}"
        )
        write(tmp_path, f"var/lib/pacman/local/{name}-1/desc", text)
        write(tmp_path, f"var/lib/pacman/local/{name}-1/files", f"%FILES%\nusr/\nusr/bin/{name}\n")
    (left,) = unneeded_packages(tmp_path)
    assert (left.name, left.size_bytes) == ("left", 4096)
    manager = Alpm(tmp_path)
    assert manager.is_here
    assert manager.versions() == dict.fromkeys(("desk", "rope", "left", "provider"), "1-2")
    owned = manager.owners(["/bin/rope", "/usr/bin/desk", "/opt/nobody"])
    assert owned == {
        "/bin/rope": Package("rope", "1-2", "The rope"),
        "/usr/bin/desk": Package("desk", "1-2", "The desk"),
    }


PLAIN = st.text(st.characters(codec="ascii"), max_size=300)


@given(PLAIN, PLAIN)
def test_odd_databases_break_nothing(tmp_path_factory, status, kept):
    root = tmp_path_factory.mktemp("odd")
    write(root, STATUS, f"Package: a\nStatus: x installed\n{status}")
    write(root, SETTINGS / "x", f'NeverAutoRemove "^{kept}')
    unneeded_packages(root)


@pytest.mark.parametrize("share", [0.4, 0.9])
def test_the_package_manager_itself_would_remove_the_same(tmp_path, share):
    """This machine's packages, as if a part of them had come by itself."""
    if not shutil.which("apt-get"):
        pytest.skip("this machine's packages are not of that family")
    (tmp_path / STATUS).parent.mkdir(parents=True)
    shutil.copy("/var/lib/dpkg/status", tmp_path / STATUS)
    shutil.copytree("/etc/apt/apt.conf.d", tmp_path / SETTINGS)
    form = "-f=${Package} ${Architecture}\\n"
    listed = subprocess.run(["dpkg-query", "-W", form], capture_output=True, text=True, check=True)
    rows = [line.split() for line in listed.stdout.splitlines()]
    came = random.Random(3).sample(rows, int(len(rows) * share))
    text = "\n\n".join(
        f"Package: {name}\nArchitecture: {made_for}\nAuto-Installed: 1" for name, made_for in came
    )
    write(tmp_path, BY_ITSELF, text + "\n")
    done = subprocess.run(
        [
            "apt-get",
            "--simulate",
            "-o",
            "APT::AutoRemove::SuggestsImportant=true",
            "-o",
            f"Dir::State::extended_states={Path(tmp_path) / BY_ITSELF}",
            "autoremove",
        ],
        capture_output=True,
        text=True,
        check=True,
    )
    words = (line.split() for line in done.stdout.splitlines())
    theirs = {row[1] for row in words if row[:1] == ["Remv"] and not row[1].startswith(NEVER)}
    assert len(theirs) > 5
    assert {package.name for package in unneeded_packages(tmp_path)} == theirs
