"""A real PC to switch on: a boot of a disk in a container, with its own clock and boot id.

What it has of its own: processes, clocks, network, mounts, service manager, bus, journal, sign-in.
What it shares: the kernel, and the counters of the whole machine.
"""

import os
import signal
import subprocess
import sysconfig
import time
from contextlib import suppress
from pathlib import Path

from tests.real_pc.disk import USER, USER_ID, NotHere

STARTS_WITHIN_SECONDS = 60.0
UP_WITHIN_SECONDS = 300.0
HIERARCHIES = (Path("/sys/fs/cgroup/systemd"), Path("/sys/fs/cgroup/unified"))
"""Where control groups without controllers are told apart, on a host that has them in several
places.
"""
SIGN_IN_PROGRAMS = "xdg-desktop-autostart.target"
PERIOD_MICROSECONDS = 20_000
OUR_PACKAGES = "/opt/packages"
"""Where the packages we run with can be read in there: the window's are too large to be copied."""
SESSION = {
    "HOME": f"/home/{USER}",
    "USER": USER,
    "PATH": "/usr/local/bin:/usr/bin:/bin",
    "LANG": "C.UTF-8",
    "XDG_RUNTIME_DIR": f"/run/user/{USER_ID}",
    "DBUS_SESSION_BUS_ADDRESS": f"unix:path=/run/user/{USER_ID}/bus",
    "XDG_CURRENT_DESKTOP": "TicketDesk",
    "COLUMNS": "120",
}


class RealPc:
    """One PC. Its disk is a folder, in which files can be looked at whether it is on or off."""

    def __init__(self, disk: Path) -> None:
        self.disk = disk
        self._container: subprocess.Popen[bytes] | None = None
        self._first_process = 0
        self._group = f"plucky-ledger-{os.getpid()}-{id(self):x}"

    def switch_on(self, cores: float | None = None) -> None:
        """Start it; with ``cores``, such as 0.3, it is a slow PC. Raises NotHere."""
        assert not self.is_on
        up = int(float(Path("/proc/uptime").read_text().split()[0]))
        with self._console.open("wb") as console:
            self._container = subprocess.Popen(
                [
                    "unshare",
                    "--time",
                    f"--boottime=-{up}",
                    f"--monotonic=-{up}",
                    "systemd-nspawn",
                    "--quiet",
                    "--register=no",
                    "--keep-unit",
                    "--private-network",
                    "--console=pipe",
                    f"--bind-ro={sysconfig.get_path('purelib')}:{OUR_PACKAGES}",
                    *(["--bind=/dev/fuse"] if Path("/dev/fuse").exists() else []),
                    "--boot",
                    f"--directory={self.disk}",
                ],
                env={**os.environ, "SYSTEMD_NSPAWN_UNIFIED_HIERARCHY": "1"},
                stdin=subprocess.DEVNULL,
                stdout=console,
                stderr=subprocess.STDOUT,
                start_new_session=True,
                preexec_fn=lambda: _set_apart(self._group, cores),  # noqa: PLW1509
            )
        deadline = time.monotonic() + STARTS_WITHIN_SECONDS
        while not self._first_process:
            if time.monotonic() > deadline or not self.is_on:
                self.cut_power()
                raise NotHere(f"it did not start: {self._console.read_text()[-400:]}")
            time.sleep(0.1)
            self._first_process = _first_process_in(self.disk)

    @property
    def is_on(self) -> bool:
        return self._container is not None and self._container.poll() is None

    @property
    def _console(self) -> Path:
        return self.disk.with_name(f"{self.disk.name}.console")

    def run(self, *command: str, user: bool = False, timeout: float = 120.0) -> str:
        """What a command prints, run as root or as the user who signed in. Raises on failure."""
        done = self.tried(*command, user=user, timeout=timeout)
        assert done.returncode == 0, f"{command}: {done.stdout}{done.stderr}"
        return done.stdout

    def tried(
        self, *command: str, user: bool = False, timeout: float = 120.0
    ) -> "subprocess.CompletedProcess[str]":
        """What became of a command."""
        enter = [
            "nsenter",
            "--target",
            str(self._first_process),
            "--mount",
            "--uts",
            "--ipc",
            "--net",
            "--pid",
            "--cgroup",
            "--time",
        ]
        if user:
            session = [f"{name}={value}" for name, value in SESSION.items()]
            enter += [
                "setpriv",
                f"--reuid={USER_ID}",
                f"--regid={USER_ID}",
                "--init-groups",
                "env",
                "-i",
                "-C",
                SESSION["HOME"],
                *session,
            ]
        entered = subprocess.Popen(
            [*enter, *command], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
        )
        deadline = time.monotonic() + timeout
        while True:
            try:
                out, err = entered.communicate(timeout=1.0)
            except subprocess.TimeoutExpired:
                # A shutdown stops all processes for a moment, and who waits for one with it.
                entered.send_signal(signal.SIGCONT)
                if time.monotonic() > deadline:
                    entered.kill()
                    entered.communicate()
                    raise
            else:
                return subprocess.CompletedProcess(command, entered.returncode, out, err)

    def wait_until_up(self) -> None:
        """Wait until the system and the user's session have started everything."""
        deadline = time.monotonic() + UP_WITHIN_SECONDS
        if not self._managed:
            while not self.tried("pgrep", "-u", USER, "sleep").stdout:
                assert self.is_on, self._console.read_text()
                assert time.monotonic() < deadline, self.tried("ps", "-ef").stdout
                time.sleep(0.5)
            return
        # A person's manager is up with what it starts by itself, which the session comes after.
        for manager, asked in (
            ([], ["is-system-running"]),
            (["--user"], ["is-system-running"]),
            (["--user"], ["is-active", SIGN_IN_PROGRAMS]),
        ):
            while self._told(*manager, *asked) not in {"running", "degraded", "active"}:
                if time.monotonic() > deadline:
                    jobs = self.tried("systemctl", *manager, "list-jobs", user=bool(manager))
                    raise AssertionError(f"{jobs.stdout}{jobs.stderr}{self.is_on}")
                time.sleep(0.5)

    def restart(self) -> None:
        """Have it restart as a user would: it is off then."""
        self.tried(*(("systemctl", "reboot") if self._managed else ("reboot",)))
        self.wait_until_off()

    @property
    def _managed(self) -> bool:
        """Whether a service manager runs it."""
        return self.path("/usr/lib/systemd/systemd").exists()

    def _told(self, *asked: str) -> str:
        """What a manager says of how things are."""
        return self.tried("systemctl", *asked, user="--user" in asked).stdout.strip()

    def switch_off(self) -> None:
        """Shut down as a user would."""
        if self.is_on:
            self.tried(*(("systemctl", "poweroff") if self._managed else ("poweroff",)))
            self.wait_until_off()

    def wait_until_off(self, seconds: float = 150.0) -> None:
        """Wait for a shutdown or restart that was asked for inside: both end the container."""
        assert self._container is not None
        try:
            self._container.wait(timeout=seconds)
        finally:
            self.cut_power()

    def cut_power(self) -> None:
        """End it in the middle of whatever it does."""
        if self._first_process:
            with suppress(ProcessLookupError):
                os.kill(self._first_process, signal.SIGKILL)
        if self._container is not None:
            with suppress(ProcessLookupError):
                os.killpg(self._container.pid, signal.SIGKILL)
            self._container.wait()
        self._container, self._first_process = None, 0
        for hierarchy in HIERARCHIES:
            own = hierarchy / self._group
            for group in [*sorted(own.rglob("*/"), reverse=True), own]:
                with suppress(OSError):
                    group.rmdir()

    def path(self, inside: str) -> Path:
        """Where a file of it lies for us."""
        return self.disk / inside.lstrip("/")


def _first_process_in(disk: Path) -> int:
    """Pid, as we see it, of process 1 of what was booted from this disk; 0 while there is none."""
    wanted = disk.stat()
    for process in Path("/proc").glob("[0-9]*"):
        try:
            root = os.stat(process / "root")
            status = (process / "status").read_text()
        except OSError:
            continue
        inside = next(line for line in status.splitlines() if line.startswith("NSpid")).split()
        if (root.st_dev, root.st_ino) == (wanted.st_dev, wanted.st_ino) and inside[-1] == "1":
            return int(process.name) if len(inside) > 2 and _is_manager(process) else 0
    return 0


def _is_manager(process: Path) -> bool:
    return (process / "comm").read_text().strip() in {"systemd", "init", "runit"}


def _set_apart(name: str, cores: float | None) -> None:
    """Put the calling process, and what it starts, into groups of its own, where several PCs would
    otherwise have theirs in one place; and under a limit of so many cores.
    """
    for hierarchy in HIERARCHIES:
        if hierarchy.is_dir():
            (hierarchy / name).mkdir(exist_ok=True)
            (hierarchy / name / "cgroup.procs").write_text(str(os.getpid()))
    if cores:
        _hold_to(cores)


def _hold_to(cores: float) -> None:
    own = Path("/sys/fs/cgroup")
    old = (own / "cpu").is_dir()
    group = (own / "cpu" if old else own) / "plucky-ledger-real-pc"
    group.mkdir(exist_ok=True)
    quota = int(PERIOD_MICROSECONDS * cores)
    if old:
        (group / "cpu.cfs_period_us").write_text(str(PERIOD_MICROSECONDS))
        (group / "cpu.cfs_quota_us").write_text(str(quota))
    else:
        (group / "cpu.max").write_text(f"{quota} {PERIOD_MICROSECONDS}")
    (group / "cgroup.procs").write_text(str(os.getpid()))
