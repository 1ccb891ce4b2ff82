"""Startup entries of the real PC, each with work that is known: what it waits, computes and holds.

Four system services in an order, a user service, and four sign-in programs, two of which never
start; then one of each kind of file that starts programs. A session that signs its user in by
itself stands in for the sign-in screen.
"""

from pathlib import Path

from plucky_ledger.core.entries.entry import EntryKind

WORKER = """#!/usr/bin/python3
# One startup entry: waits, holds memory, forks, computes, says that it is up, and stays or goes.
import argparse, os, socket, time
wanted = argparse.ArgumentParser()
for name in ("wait", "compute", "hold-mb", "stay"):
    wanted.add_argument(f"--{name}", type=float, default=0.0)
wanted.add_argument("--children", type=int, default=0)
wanted.add_argument("name")
wanted = wanted.parse_args()
time.sleep(wanted.wait)
held = bytearray(os.urandom(4096)) * int(wanted.hold_mb * 256)
for _ in range(wanted.children):
    if os.fork() == 0:
        time.sleep(1e6)
while time.process_time() < wanted.compute:
    sum(range(10_000))
if "NOTIFY_SOCKET" in os.environ:
    with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as manager:
        manager.connect(os.environ["NOTIFY_SOCKET"].replace("@", chr(0), 1))
        manager.send(b"READY=1")
if wanted.stay:
    time.sleep(1e6)
"""
SESSION = """#!/bin/sh
systemctl --user import-environment XDG_CURRENT_DESKTOP XDG_SESSION_TYPE XDG_SESSION_ID
systemctl --user start --no-block desk-session.target
. ~/.profile
sh ~/.config/openbox/autostart
busctl --user --timeout=1 call org.example.Tide / org.freedesktop.DBus.Peer Ping &
exec sleep infinity
"""
SIGN_IN = """[Unit]
Description=Sign-in screen that signs its user in by itself
After=systemd-user-sessions.service systemd-logind.service
Wants=systemd-logind.service

[Service]
User=bench
PAMName=login
Environment=XDG_SESSION_CLASS=user XDG_SESSION_TYPE=x11 XDG_CURRENT_DESKTOP=TicketDesk
ExecStartPre=/bin/sleep 2
ExecStart=/usr/local/bin/desk-session
"""
DESK = """[Unit]
Description=Desk session
Requires=graphical-session.target
BindsTo=graphical-session.target
Wants=xdg-desktop-autostart.target
Before=xdg-desktop-autostart.target
"""
ACCOUNTING = "[Manager]\nDefaultCPUAccounting=yes\nDefaultMemoryAccounting=yes\n"
SERVICES = {
    "tideclock-sync": ("notify", "--wait 3 --compute 0.3 --stay 1", ""),
    "harbour-import": ("oneshot", "--compute 4", "After=tideclock-sync.service"),
    "foghorn-calibrate": ("oneshot", "--wait 2 --compute 0.3", ""),
    "lanternprint-agent": ("notify", "--compute 1 --hold-mb 120 --children 8 --stay 1", ""),
}
USER_SERVICES = {"ticketdesk-cache": ("oneshot", "--compute 2", "")}
SIGN_IN_PROGRAMS = {
    "etc/xdg/autostart/logbook-tray": ("--compute 1.5 --hold-mb 60 --children 4 --stay 1", ""),
    "home/bench/.config/autostart/brassbell-notifier": (
        "--wait 1 --compute 2 --hold-mb 25 --stay 1",
        "",
    ),
    "home/bench/.config/autostart/oldpier-updater": ("--compute 1", "OnlyShowIn=SeaDesk;\n"),
    "home/bench/.config/autostart/windlass-toolbar": (
        "--compute 1",
        "TryExec=/opt/windlass/toolbar\n",
    ),
}
TABLE = "etc/cron.d/mooring"
BUOY = "[Unit]\nDescription=Buoy\n[Service]\nExecStart=/bin/sleep infinity\n"
BUOY_SOCKET = "[Socket]\nListenStream=/run/buoy\n[Install]\nWantedBy=sockets.target\n"
"""A service that nothing but its socket starts."""
FSTAB_LINE = "tide /srv/tide\\040gauge tmpfs size=1m 0 0\n"
MOUNT = "srv-tide\\x20gauge.mount"
HOSTED_SECONDS = 0.4
"""CPU time of each of them; of the hook a fourth, which runs at every sign-in."""
HOSTED = {
    TABLE: (EntryKind.BOOT_LINE, "@reboot root {work}\n"),
    "home/bench/.profile": (EntryKind.SHELL_LINE, "umask 022\n{work} >/dev/null 2>&1 &\n"),
    "home/bench/.config/openbox/autostart": (EntryKind.DESKTOP_LINE, "(sleep 1; {work}) &\n"),
    "usr/share/dbus-1/services/org.example.Tide.service": (
        EntryKind.BUS_PROGRAM,
        "[D-BUS Service]\nName=org.example.Tide\nExec={work}\n",
    ),
    "etc/pam.d/login": (EntryKind.HOOK, "session optional pam_exec.so {work}\n"),
}
"""Files that start a program, each with a line more."""
SCRIPT_SECONDS = 0.6
SCRIPTS = {
    "capstan.service": (
        "etc/init.d/capstan",
        "#!/bin/sh\n### BEGIN INIT INFO\n# Provides: capstan\n# Required-Start: $local_fs\n"
        "# Required-Stop:\n# Default-Start: 2 3 4 5\n# Default-Stop:\n"
        "# Short-Description: Capstan\n### END INIT INFO\n"
        '[ "$1" = start ] && {work}\nexit 0\n',
    ),
    "rc-local.service": ("etc/rc.local", "#!/bin/sh\n{work}\n"),
}
"""Scripts that a unit of the system's making runs, by the unit."""
MADE_BY = {
    "capstan.service": "systemd-sysv-generator",
    "rc-local.service": "systemd-rc-local-generator",
}
"""The generator of the service manager that makes these units."""
BESIDE = "/usr/local/bin/startup-work --compute 0.2 before"
ADDED_TO = "cron.service"
ADDED = f"etc/systemd/system/{ADDED_TO}.d/before.conf"
"""A command that somebody added to a unit of a package, and where."""
STARTING = (
    *(f"{name}.service" for name in SERVICES),
    *(f"user:{name}.service" for name in USER_SERVICES),
    "logbook-tray.desktop",
    "brassbell-notifier.desktop",
)
"""Ids of what starts, as the product knows them."""
NEVER_STARTING = ("oldpier-updater.desktop", "windlass-toolbar.desktop")


def write(disk: Path) -> None:
    """Put everything on the disk."""
    _program(disk / "usr/local/bin/startup-work", WORKER)
    _program(disk / "usr/local/bin/desk-session", SESSION)
    _file(disk / "etc/systemd/system.conf.d/accounting.conf", ACCOUNTING)
    _file(disk / "etc/systemd/user/desk-session.target", DESK)
    _file(disk / "etc/systemd/system/display-manager.service", SIGN_IN)
    _wanted(disk / "etc/systemd/system", "display-manager", "graphical.target")
    default = disk / "etc/systemd/system/default.target"
    default.unlink(missing_ok=True)
    default.symlink_to("/lib/systemd/system/graphical.target")
    for name, entry in SERVICES.items():
        _service(disk / "etc/systemd/system", name, entry, "multi-user.target")
    for name, entry in USER_SERVICES.items():
        _service(disk / "etc/systemd/user", name, entry, "default.target")
    _file(disk / "etc/systemd/system/buoy.socket", BUOY_SOCKET)
    _file(disk / "etc/systemd/system/buoy.service", BUOY)
    _wanted(disk / "etc/systemd/system", "buoy", "sockets.target", ".socket")
    for path, (kind, line) in HOSTED.items():
        file = disk / path
        hook = kind is EntryKind.HOOK
        work = f"--compute {HOSTED_SECONDS / 4}" if hook else f"--compute {HOSTED_SECONDS} --stay 1"
        work = f"/usr/local/bin/startup-work {work} {kind.value}"
        _added(file, line.format(work=work))
    for unit, (path, script) in SCRIPTS.items():
        work = f"/usr/local/bin/startup-work --compute {SCRIPT_SECONDS} {unit}"
        _program(disk / path, script.replace("{work}", work))
    for level in "2345":
        start = disk / f"etc/rc{level}.d/S01capstan"
        start.parent.mkdir(exist_ok=True)
        start.symlink_to("../init.d/capstan")
    _file(disk / ADDED, f"[Service]\nExecStartPre={BESIDE}\n")
    _added(disk / "etc/fstab", FSTAB_LINE)
    for path, (work, rules) in SIGN_IN_PROGRAMS.items():
        name = path.rpartition("/")[2]
        _file(
            disk / f"{path}.desktop",
            f"[Desktop Entry]\nType=Application\nName={_title(name)}\n"
            f"Exec=/usr/local/bin/startup-work {work} {name}\n{rules}",
        )


def _service(units: Path, name: str, entry: tuple[str, str, str], target: str) -> None:
    kind, work, order = entry
    _file(
        units / f"{name}.service",
        f"[Unit]\nDescription={_title(name)}\n{order}\n\n[Service]\nType={kind}\n"
        f"ExecStart=/usr/local/bin/startup-work {work} {name}\n\n[Install]\nWantedBy={target}\n",
    )
    _wanted(units, name, target)


def _wanted(units: Path, name: str, target: str, kind: str = ".service") -> None:
    link = units / f"{target}.wants/{name}{kind}"
    link.parent.mkdir(parents=True, exist_ok=True)
    link.symlink_to(f"../{name}{kind}")


def _title(name: str) -> str:
    return name.replace("-", " ").capitalize()


def _file(path: Path, text: str) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(text)


def _added(path: Path, text: str) -> None:
    _file(path, (path.read_text() if path.exists() else "") + text)


def _program(path: Path, text: str) -> None:
    _file(path, text)
    path.chmod(0o755)
