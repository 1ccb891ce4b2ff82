"""The folders of a made-up PC whose services an init system starts: one of them waits for an early
one, and one is switched off.
"""

from plucky_ledger.linux.init_systems.running import InitSystem

HEADER = """#!/bin/sh
### BEGIN INIT INFO
# Provides:          {provides}
# Required-Start:    $remote_fs {after}
# Default-Start:     {levels}
# Short-Description: {title}
### END INIT INFO
"""
ROPE = HEADER.format(provides="rope", after="hull", levels="2 3 4 5", title="Ropes")
ROPE += "NAME=rope\nDAEMON=/opt/$NAME/sync\n"
BUOY = HEADER.format(provides="buoy", after="", levels="2 3 4 5", title="Light of the buoy")
HULL = HEADER.format(provides="hull", after="", levels="S", title="Hull")
FIRST = {InitSystem.SYSVINIT: "init", InitSystem.OPENRC: "init", InitSystem.RUNIT: "runit"}


def made_up_pc(root, system):
    """Write them below a folder."""
    write(root / "proc/1/comm", f"{FIRST[system]}\n")
    write(root / "etc/inittab", "id:2:initdefault:\n")
    for name, text in (("rope-sync", ROPE), ("buoy-light", BUOY), ("hull-mount", HULL)):
        write(root / "etc/init.d" / name, text, 0o755)
    if system is InitSystem.OPENRC:
        link(root / "etc/runlevels/default/rope-sync", "/etc/init.d/rope-sync")
        link(root / "etc/runlevels/sysinit/hull-mount", "/etc/init.d/hull-mount")
        return
    link(root / "etc/rcS.d/S01hull-mount", "../init.d/hull-mount")
    if system is InitSystem.RUNIT:
        for name in ("rope-sync", "buoy-light"):
            run = f"#!/bin/sh\n[ -e /x ] || true\nexec /opt/{name.split('-')[0]}/sync --stay 2>&1\n"
            write(root / "etc/sv" / name / "run", run, 0o755)
        (root / "etc/sv/buoy-light/down").touch()
        link(root / "etc/runit/runsvdir/default/rope-sync", "/etc/sv/rope-sync")
        return
    for level in "2345":
        link(root / f"etc/rc{level}.d/S02rope-sync", "../init.d/rope-sync")
        link(root / f"etc/rc{level}.d/K03buoy-light", "../init.d/buoy-light")


def write(path, text, mode=0o644):
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(text)
    path.chmod(mode)


def link(path, target):
    path.parent.mkdir(parents=True, exist_ok=True)
    path.symlink_to(target)
