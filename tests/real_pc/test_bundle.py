"""The archive on a clean PC without a network: installed, upgraded while armed, removed again."""

import shutil
import time

import pytest
from tools.bundle import make
from tools.policy import ACTION, ASKED

from tests.real_pc.disk import kept_disk, run
from tests.real_pc.pc import RealPc
from tests.real_pc.use import ledger_command, recordings, switched_on

IN_THE_PC = "/srv/bundle"
OURS = ("plucky", "pluckyledger")
KEPT = {"home/bench/.config", "home/bench/.local", "home/bench/.cache"}
"""Where ledgers and preferences are, which stay, and what others keep."""
CHANGING = (
    "tmp",
    "var/log",
    "var/lib/systemd",
    "var/tmp",
    "var/cache",
    "run",
    "proc",
    "sys",
    "dev",
)
KEPT_AT_HOME = (".local/share/plucky-ledger/", ".local/state/plucky-ledger/", ".cache/fontconfig/")
"""Ledgers and recordings, the log, and what a library keeps of fonts."""
UP_SECONDS = 12.0
SHOWN = 20


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


def everything(pc):
    """Every path that says something of what is installed."""
    listed = pc.run("find", "/", "-xdev", "-mindepth", "1", "-printf", "%P\\n")
    left_out = (*CHANGING, *KEPT)
    return {path for path in listed.splitlines() if not path.startswith(left_out)}


def assert_nothing_changed(before, after):
    """The first of what did is told: all of it would take long to compare."""
    assert not sorted(before ^ after)[:SHOWN]


def window_comes_up(pc, command):
    """By the command of the menu entry: it is still there after a while, and ends when asked."""
    shown = ("env", "QT_QPA_PLATFORM=offscreen", "timeout", "-s", "TERM", str(UP_SECONDS))
    done = pc.tried(*shown, *command.split(), user=True)
    assert done.returncode in {0, 124}, done.stderr
    assert "Traceback" not in done.stderr


@pytest.mark.long
def test_for_all_users(bare_pc):
    before = everything(bare_pc)
    assert_a_failed_install_leaves_nothing(bare_pc, before)
    told = bare_pc.run("sh", f"{IN_THE_PC}/install.sh")
    assert "is installed" in told
    entry = bare_pc.path("/usr/local/share/applications/plucky-ledger.desktop").read_text()
    (command,) = [row for row in entry.splitlines() if row.startswith("Exec=plucky-ledger open")]
    window_comes_up(bare_pc, command.removeprefix("Exec=").replace(" %F", ""))
    assert_asked_in_our_words(bare_pc)
    job = ledger_command(bare_pc, "take-in", "--this-pc", "--new", "Bundle PC").strip()
    ledger_command(bare_pc, "arm", job, "--boots", "1", "--user")
    bare_pc.run("sh", f"{IN_THE_PC}/install.sh")  # upgraded while armed
    bare_pc.restart()
    switched_on(bare_pc)
    deadline = time.monotonic() + 330.0
    while "settled" not in ledger_command(bare_pc, "pick-up", job) and not booked(bare_pc, job):
        assert time.monotonic() < deadline
        time.sleep(2.0)
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
    left = {path for path in everything(pc) - before if pc.path(path).is_file()}
    assert not sorted(left)[:SHOWN]


def booked(pc, job):
    return "no figure yet" not in ledger_command(pc, "book", job) and not recordings(pc)


def assert_asked_in_our_words(pc):
    """Of each request, and by the program that carries it out."""
    for request, (_, english, _) in ASKED.items():
        told = pc.run("pkaction", "--verbose", "--action-id", f"{ACTION}.{request}")
        assert english.partition("’")[0] in told  # a terminal may have no such letter
        assert "/opt/plucky-ledger/lib/plucky-ledger/administer" in told
    assert pc.tried("/opt/plucky-ledger/lib/plucky-ledger/administer", "such").returncode == 2


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
