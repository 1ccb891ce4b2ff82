"""Packages for Debian 13 on a clean PC: built, installed, upgraded while armed, removed again."""

import shutil

import pytest
from tools.deb import NAME, RELEASE, build

from tests.real_pc.disk import kept_disk, run
from tests.real_pc.packaged import (
    assert_asked_in_our_words,
    assert_nothing_changed,
    command_of_the_menu_entry,
    everything,
    upgraded_while_armed,
    window_comes_up,
)
from tests.real_pc.pc import RealPc
from tests.real_pc.use import ledger_command, switched_on

IN_THE_PC = "/srv/packages"
APT = ("apt-get", "--quiet=2", "--yes", "--no-install-recommends")
SCREEN = ("xvfb-run", "--auto-servernum", "env", "QT_QPA_PLATFORM=xcb")
STICK = "/home/bench/.local/stick"
BOTH = (NAME, f"{NAME}-window")


@pytest.fixture(scope="module")
def packages(tmp_path_factory):
    return build(tmp_path_factory.mktemp("dist"))


@pytest.fixture
def pc(tmp_path, packages, monkeypatch):
    """A Debian 13 that has what ours need, and nothing of ours: it has no network once it is on."""
    monkeypatch.setenv("PLUCKY_LEDGER_REAL_PC_RELEASE", RELEASE)
    disk = tmp_path / "disk"
    run("cp", "-a", "--reflink=auto", str(kept_disk()), str(disk))
    folder = disk / IN_THE_PC.lstrip("/")
    folder.mkdir()
    for package in packages:
        shutil.copy(package, folder)
    shutil.copy("/etc/resolv.conf", disk / "etc/resolv.conf")
    archives = [f"{IN_THE_PC}/{package.name}" for package in packages]
    for command in (
        ("update",),
        ("install", *archives, "xvfb", "xauth", "libxcb-cursor0", "weasyprint", "python3-jinja2"),
        ("purge", *BOTH),
        ("clean",),
    ):
        run("chroot", str(disk), "env", "DEBIAN_FRONTEND=noninteractive", *APT, *command)
    pc = RealPc(disk)
    switched_on(pc)
    yield pc
    pc.cut_power()
    shutil.rmtree(disk)


@pytest.mark.long
def test_installed_used_upgraded_and_removed(pc):
    before = everything(pc)
    pc.run("dpkg", "--install", f"{IN_THE_PC}/{only(pc, NAME)}")
    refused = pc.tried(NAME, "open", user=True)
    assert f"sudo apt install {NAME}-window" in refused.stderr
    pc.run("dpkg", "--install", f"{IN_THE_PC}/{only(pc, f'{NAME}-window')}")
    window_comes_up(pc, command_of_the_menu_entry(pc, "/usr"), SCREEN)
    assert_asked_in_our_words(pc, f"/usr/lib/{NAME}/administer")
    job = upgraded_while_armed(pc, lambda: pc.run("sh", "-c", f"dpkg --install {IN_THE_PC}/*.deb"))
    ledger_command(pc, "statement", job, "--out", "/home/bench/.local/statement.pdf")
    assert pc.path("/home/bench/.local/statement.pdf").read_bytes().startswith(b"%PDF")
    ledger_command(pc, "stick", STICK)
    pc.run("sh", f"{STICK}/plucky-ledger-stick", "--version", user=True)
    carried = pc.run("python3", "-m", "zipfile", "--list", f"{STICK}/plucky-ledger-stick")
    assert "jeepney/LICENSE" in carried
    ledger_command(pc, "arm", job, "--boots", "1", "--system")
    pc.run("dpkg", "--purge", *reversed(BOTH))
    assert_nothing_changed(before, everything(pc))
    assert pc.path("/home/bench/.local/share/plucky-ledger/workshop.ledger").exists()


def only(pc, name):
    (package,) = pc.path(IN_THE_PC).glob(f"{name}_*.deb")
    return package.name
