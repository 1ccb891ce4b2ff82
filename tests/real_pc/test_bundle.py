"""The archive on a clean PC without a network: installed, upgraded while armed, removed again."""

import shutil

import pytest
from tools.bundle import make

from tests.real_pc.disk import kept_disk, run
from tests.real_pc.packaged import (
    SHOWN,
    assert_asked_in_our_words,
    assert_nothing_changed,
    command_of_the_menu_entry,
    everything,
    upgraded_while_armed,
    window_comes_up,
)
from tests.real_pc.pc import RealPc
from tests.real_pc.use import ledger_command, switched_on

IN_THE_PC = "/srv/bundle"
OURS = ("plucky", "pluckyledger")
KEPT_AT_HOME = (
    ".local/share/plucky-ledger/",
    ".local/state/plucky-ledger/",
    ".config/plucky-ledger/ui.ini",
    ".cache/fontconfig/",
)
"""Ledgers and recordings, the log, preferences, and what a library keeps of fonts."""


@pytest.fixture(scope="module")
def archive(tmp_path_factory):
    return make(tmp_path_factory.mktemp("dist"))


@pytest.fixture
def bare_pc(tmp_path, archive):
    """One on which nothing of ours was ever installed, with the archive unpacked."""
    disk = tmp_path / "disk"
    run("cp", "-a", "--reflink=auto", str(kept_disk()), str(disk))
    (disk / IN_THE_PC.lstrip("/")).mkdir()
    run("tar", "xf", str(archive), "-C", str(disk / IN_THE_PC.lstrip("/")), "--strip-components=1")
    pc = RealPc(disk)
    switched_on(pc)
    yield pc
    pc.cut_power()
    shutil.rmtree(disk)


@pytest.mark.long
def test_for_all_users(bare_pc):
    before = everything(bare_pc)
    assert_a_failed_install_leaves_nothing(bare_pc, before)
    told = bare_pc.run("sh", f"{IN_THE_PC}/install.sh")
    assert "is installed" in told
    window_comes_up(bare_pc, command_of_the_menu_entry(bare_pc, "/usr/local"))
    assert_asked_in_our_words(bare_pc, "/opt/plucky-ledger/lib/plucky-ledger/administer")
    job = upgraded_while_armed(bare_pc, lambda: bare_pc.run("sh", f"{IN_THE_PC}/install.sh"))
    ledger_command(bare_pc, "arm", job, "--boots", "1", "--system")
    assert "is removed" in bare_pc.run("sh", "/opt/plucky-ledger/uninstall.sh")
    assert_nothing_changed(before, everything(bare_pc))
    assert bare_pc.path("/home/bench/.local/share/plucky-ledger/workshop.ledger").exists()


def assert_a_failed_install_leaves_nothing(pc, before):
    """A file of it is missing, found out when the rest is in place."""
    gone = pc.path(f"{IN_THE_PC}/example.pluckyledger.policy")
    gone.rename(gone.with_suffix(".away"))
    refused = pc.tried("sh", f"{IN_THE_PC}/install.sh")
    gone.with_suffix(".away").rename(gone)
    assert refused.returncode != 0
    assert "Nothing is installed" in refused.stderr
    assert_nothing_changed(before, everything(pc))


@pytest.mark.long
def test_for_one_user_alone(bare_pc):
    before = everything(bare_pc)
    before_at_home = at_home(bare_pc)
    bare_pc.run("sh", f"{IN_THE_PC}/install.sh", user=True)
    assert_nothing_changed(before, everything(bare_pc))
    window_comes_up(bare_pc, "/home/bench/.local/bin/plucky-ledger open")
    bare_pc.run("sh", "/home/bench/.local/lib/plucky-ledger/uninstall.sh", user=True)
    left = at_home(bare_pc) - before_at_home
    assert not sorted(path for path in left if not path.startswith(KEPT_AT_HOME))[:SHOWN]


def at_home(pc):
    """Every file in the home of the PC's user."""
    home = pc.path("/home/bench")
    return {str(path.relative_to(home)) for path in home.rglob("*") if path.is_file()}
