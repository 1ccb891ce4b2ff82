"""A program that was installed from a package, and is taken away again: what both are held to."""

import time

from tools.policy import ACTION, ASKED

from tests.real_pc.use import ledger_command, recordings, switched_on

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
UP_SECONDS = 12.0
RECORDED_WITHIN_SECONDS = 330.0
SHOWN = 20


def everything(pc):
    """Every path that says something of what is installed."""
    listed = pc.run("find", "/", "-xdev", "-mindepth", "1", "-printf", "%P\\n")
    left_out = (*CHANGING, *KEPT)
    return {path for path in listed.splitlines() if not path.startswith(left_out)}


def assert_nothing_changed(before, after):
    """The first of what did is told: all of it would take long to compare."""
    changed = sorted(before ^ after)
    assert not changed, changed[:SHOWN]


def command_of_the_menu_entry(pc, folder):
    """What the desktop runs, without a file."""
    entry = pc.path(f"{folder}/share/applications/plucky-ledger.desktop").read_text()
    (command,) = [row for row in entry.splitlines() if row.startswith("Exec=plucky-ledger open")]
    return command.removeprefix("Exec=").replace(" %F", "")


def window_comes_up(pc, command, on=("env", "QT_QPA_PLATFORM=offscreen")):
    """It is still there after a while, and ends when asked."""
    asked = ("timeout", "-s", "TERM", str(UP_SECONDS))
    done = pc.tried(*on, *asked, *command.split(), user=True)
    assert done.returncode in {0, 124}, done.stderr
    assert "Traceback" not in done.stderr


def assert_asked_in_our_words(pc, program):
    """Of each request, and by the program that carries it out."""
    for request, (_, english, _) in ASKED.items():
        told = pc.run("pkaction", "--verbose", "--action-id", f"{ACTION}.{request}")
        assert english.partition("’")[0] in told  # a terminal may have no such letter
        assert program in told
    assert pc.tried(program, "such").returncode == 2


def upgraded_while_armed(pc, upgrade):
    """The next boot is recorded although the program was put in its own place; returns the job."""
    job = ledger_command(pc, "take-in", "--this-pc", "--new", "Packaged PC").strip()
    ledger_command(pc, "arm", job, "--boots", "1", "--user")
    upgrade()
    pc.restart()
    switched_on(pc)
    deadline = time.monotonic() + RECORDED_WITHIN_SECONDS
    while "settled" not in ledger_command(pc, "pick-up", job) and not booked(pc, job):
        assert time.monotonic() < deadline
        time.sleep(2.0)
    return job


def booked(pc, job):
    return "no figure yet" not in ledger_command(pc, "book", job) and not recordings(pc)
