"""Startup entries of a real PC whose services an init system starts, each with work that is known.

A script that has to end before others begin, a program that stays, one that is switched off, and
a sign-in screen that signs its user in by itself.
"""

import subprocess
from pathlib import Path

from tests.real_pc.entries import WORKER

WORK = "/usr/local/sbin"
HEADER = """#!/bin/sh
### BEGIN INIT INFO
# Provides:          {name}
# Required-Start:    $remote_fs
# Should-Start:      {after}
# Required-Stop:
# Default-Start:     2 3 4 5
# Default-Stop:
# Short-Description: {title}
### END INIT INFO
"""
WAITED_FOR = """[ "$1" = start ] || exit 0
{work}/tideclock-sync --compute 3 once
"""
STAYS = """DAEMON={work}/lanternprint-agent
case "$1" in
start) start-stop-daemon --start --background --make-pidfile --pidfile /run/lanternprint.pid \\
    --exec $DAEMON -- --compute 2 --hold-mb 80 --stay 1 agent ;;
stop) start-stop-daemon --stop --oknodo --pidfile /run/lanternprint.pid ;;
esac
"""
SUPERVISED = """#!/bin/sh
exec {work}/lanternprint-agent --compute 2 --hold-mb 80 --stay 1 agent
"""
SIGNS_IN = """[ "$1" = start ] || exit 0
(sleep 2; exec script -q -c "login -f bench" /dev/null) </dev/null >/dev/null 2>&1 &
"""
PROFILE = f"""{WORK}/brassbell-notifier --compute 2 --stay 1 bell &
exec sleep 1000000
"""
TIDECLOCK, LANTERNPRINT, DESK = "tideclock-sync", "lanternprint-agent", "desk-screen"
FOGHORN = "foghorn-calibrate"
SCRIPTS = {
    TIDECLOCK: (WAITED_FOR, "", "Time of the tide"),
    LANTERNPRINT: (STAYS, TIDECLOCK, "Lantern prints"),
    FOGHORN: (WAITED_FOR, "", "Tone of the foghorn"),
    DESK: (SIGNS_IN, LANTERNPRINT, "Sign-in screen"),
}
PROGRAMS = ("tideclock-sync", "lanternprint-agent", "brassbell-notifier")


def write(disk: Path, started_by: str) -> None:
    """Put the entries on a disk, and have the init system start all but one."""
    for program in PROGRAMS:
        _executable(disk / WORK.lstrip("/") / program, WORKER)
    for name, (text, after, title) in SCRIPTS.items():
        header = HEADER.format(name=name, after=after, title=title)
        if started_by == "runit" and name == LANTERNPRINT:
            _executable(disk / "etc/sv" / name / "run", SUPERVISED.format(work=WORK))
            (disk / "etc/runit/runsvdir/default" / name).symlink_to(f"/etc/sv/{name}")
            continue
        _executable(disk / "etc/init.d" / name, header + text.format(work=WORK))
        if name != FOGHORN:
            _link(disk, name, started_by)
    (disk / "home/bench/.profile").write_text(PROFILE)


def _link(disk: Path, name: str, started_by: str) -> None:
    """As the administrator would: what orders the scripts is told of it."""
    if started_by == "openrc":
        (disk / "etc/runlevels/default" / name).symlink_to(f"/etc/init.d/{name}")
    elif subprocess.run(["chroot", disk, "update-rc.d", name, "defaults"], check=False).returncode:
        # It waits for what is supervised, which these tools know nothing of.
        (disk / "etc/rc2.d" / f"S04{name}").symlink_to(f"../init.d/{name}")


def _executable(path: Path, text: str) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(text)
    path.chmod(0o755)
