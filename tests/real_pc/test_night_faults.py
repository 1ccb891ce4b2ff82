"""A night shift under each fault, on a real PC: however it ends, every byte is as it was.

Each night is begun, something goes wrong at its first boots, and the PC is looked at in the end.
"""

import json
import os
import subprocess

import msgspec
import pytest

from plucky_ledger.night.plan_file import LARGEST_BYTES
from tests.helpers.answers import answered
from tests.real_pc.disk import USER_ID
from tests.real_pc.entries import STARTING
from tests.real_pc.test_control import everything
from tests.real_pc.test_night import (
    assert_as_it_began,
    plan_of,
    wait_until_off_or_over,
)
from tests.real_pc.use import ledger_command, restart_armed, switched_on

VAR = "/var/lib/plucky-ledger"
STATE = "/home/bench/.local/state/plucky-ledger"
ENTRIES = ("harbour-import.service", "user:ticketdesk-cache.service")
HOLD = """
import fcntl, os, sys, time
os.makedirs(os.path.dirname(sys.argv[1]), exist_ok=True)
held = open(sys.argv[1], "w")
fcntl.flock(held, fcntl.LOCK_EX)
time.sleep(1e6)
"""
pytestmark = pytest.mark.long


@pytest.fixture(scope="module")
def job(real_pc):
    """A job whose PC was recorded once."""
    switched_on(real_pc)
    label = ledger_command(real_pc, "take-in", "--this-pc", "--new", "Faulty PC").strip()
    restart_armed(real_pc, label, frozenset(STARTING))
    ledger_command(real_pc, "pick-up", label)
    return label


class Night:
    """One night, from its beginning to its end."""

    def __init__(self, pc, job):
        self.pc, self.job = pc, job
        switched_on(pc)
        pc.tried("plucky-ledger", "night-shift", job, "--stop", user=True, timeout=300.0)
        self.before = everything(pc)
        chosen = [word for entry in ENTRIES for word in ("--entry", entry)]
        ledger_command(pc, "night-shift", job, "--boots", "4", *chosen)
        self.log = ""

    def off(self):
        self.pc.tried("systemctl", "reboot")
        self.pc.wait_until_off()

    def on(self):
        """Until the agent has restarted it, or it is over."""
        self.pc.switch_on()
        self.pc.wait_until_up()

    def until_off_or_over(self):
        wait_until_off_or_over(self.pc)

    def assert_over(self, reason):
        plan = plan_of(self.pc)
        assert plan.ended == reason, plan
        assert plan.restored
        switched_on(self.pc)
        assert_as_it_began(self.pc, self.before)


def test_the_stop_command_puts_everything_back_and_says_so(real_pc, job):
    night = Night(real_pc, job)
    night.off()
    night.on()
    night.until_off_or_over()  # the first boot has nothing off
    night.on()
    assert plan_of(real_pc).boots[-1].off
    told = ledger_command(real_pc, "night-shift", job, "--stop")
    assert "stopped by hand" in told
    assert "byte for byte" in told
    report = answered(ledger_command(real_pc, "night-shift", job, "--report", "--json"))
    assert [boot["recorded"] for boot in report["boots"]] == [True, None]
    night.assert_over("night_stopped")


def test_a_user_who_holds_their_own_lock_stops_only_their_own_part(real_pc, job):
    """In the middle of the night; the system's part is put back at once, theirs when it can be."""
    night = Night(real_pc, job)
    night.off()
    night.on()
    night.until_off_or_over()
    real_pc.path("/home/bench/hold.py").write_text(HOLD)
    night.on()
    holding = subprocess.Popen(
        [
            "nsenter",
            "--target",
            str(real_pc._first_process),
            "--mount",
            "--pid",
            "setpriv",
            f"--reuid={USER_ID}",
            f"--regid={USER_ID}",
            "--clear-groups",
            "/usr/bin/python3",
            "/home/bench/hold.py",
            f"{STATE}/changes/lock",
        ],
    )
    assert plan_of(real_pc).boots[-1].off
    while not plan_of(real_pc).tries:
        wait_a_moment(real_pc)
    assert plan_of(real_pc).ended == "night_not_switched"
    assert not plan_of(real_pc).restored
    assert "harbour-import.service" not in json.dumps(
        [one["entries"] for one in changes(real_pc) if one["entries"]]
    )
    night.off()
    holding.wait()
    night.on()
    night.until_off_or_over()
    real_pc.path("/home/bench/hold.py").unlink()
    night.assert_over("night_not_switched")


def changes(pc):
    return answered(pc.run("plucky-ledger", "changes", "--json", user=True))


def wait_a_moment(pc):
    pc.run("sleep", "1")


def test_made_up_entries_of_the_users_stop_nothing(real_pc, job):
    night = Night(real_pc, job)
    entry = {
        "entry": "made-up.desktop",
        "name": "x",
        "before": None,
        "after": "off",
        "writes": [],
        "stage": "done",
        "by_others": "",
    }
    made_up = {
        "key": plan_of(real_pc).key,
        "at": "2026-11-29T00:00:00+00:00",
        "by": "bench",
        "job": "x",
        "entries": [entry | {"entry": f"e{number}.desktop"} for number in range(6200)],
    }
    file = real_pc.path(f"{STATE}/changes/000500-x.json")
    real_pc.run("mkdir", "-p", f"{STATE}/changes", user=True)
    file.write_bytes(msgspec.json.encode(made_up))
    real_pc.run("chown", f"{USER_ID}:{USER_ID}", f"{STATE}/changes/000500-x.json")
    real_pc.run("chmod", "600", f"{STATE}/changes/000500-x.json")
    night.off()
    night.on()
    night.until_off_or_over()
    assert plan_of(real_pc).boots[-1].off == ()
    night.on()
    assert plan_of(real_pc).boots[-1].off
    real_pc.run("touch", f"{STATE}/night-shift-stop", user=True)
    night.until_off_or_over()
    file.unlink()
    real_pc.path(f"{STATE}/night-shift-stop").unlink()
    night.assert_over("night_stopped")


def test_a_plan_that_cannot_be_read_is_put_back_by_the_journals(real_pc, job):
    night = Night(real_pc, job)
    night.off()
    night.on()
    night.until_off_or_over()
    real_pc.path(f"{VAR}/night-shift.plan").write_bytes(b"\xff" * 2 * LARGEST_BYTES)
    night.on()
    while real_pc.tried("systemctl", "is-active", "plucky-ledger-night-shift").returncode == 0:
        wait_a_moment(real_pc)
    assert everything(real_pc) == night.before
    left = {path.name for path in real_pc.path(VAR).iterdir()}
    assert left <= {"changes", "night-shift.plan"}
    assert json.dumps([one["entries"] for one in changes(real_pc) if one["entries"]]) == "[]"
    real_pc.path(f"{VAR}/night-shift.plan").unlink(missing_ok=True)


def test_a_full_disk_ends_the_night_after_two_boots_and_loses_nothing(real_pc, job):
    """What the administrator writes to has no room left, nor has the place of the recordings."""
    night = Night(real_pc, job)
    night.off()
    full = [real_pc.path(VAR), real_pc.path("/home/bench/.local/share/plucky-ledger/recordings")]
    for folder in full:
        moved = folder.with_name(f"{folder.name}-moved")
        folder.rename(moved)
        folder.mkdir()
        os.chown(folder, moved.stat().st_uid, moved.stat().st_gid)
        subprocess.run(
            ["mount", "-t", "tmpfs", "-o", "size=12m,mode=755", "none", str(folder)], check=True
        )
        os.chown(folder, moved.stat().st_uid, moved.stat().st_gid)
        subprocess.run(["cp", "-a", f"{moved}/.", str(folder)], check=True)
        filled = ["dd", "if=/dev/zero", f"of={folder}/filled", "bs=64k"]
        assert b"No space" in subprocess.run(filled, capture_output=True, check=False).stderr
    try:
        night.on()
        night.until_off_or_over()
        assert plan_of(real_pc).boots[-1].recorded is False
        night.on()
        night.until_off_or_over()
        assert plan_of(real_pc).ended == "night_not_recorded"
        assert plan_of(real_pc).restored
        real_pc.switch_off()
    finally:
        for folder in full:
            (folder / "filled").unlink()
            kept = folder.with_name(f"{folder.name}-moved")
            subprocess.run(["cp", "-a", f"{folder}/.", f"{kept}/"], check=True)
            for gone in set(os.listdir(kept)) - set(os.listdir(folder)):
                subprocess.run(["rm", "-r", str(kept / gone)], check=True)
            subprocess.run(["umount", str(folder)], check=True)
            folder.rmdir()
            kept.rename(folder)
    night.assert_over("night_not_recorded")


def test_what_holds_up_a_restart_and_who_comes_end_it(real_pc, job):
    """A program that forbids restarts is waited for; a person who signs in and types ends it."""
    night = Night(real_pc, job)
    night.off()
    night.on()
    issue = real_pc.run("cat", "/run/issue.d/plucky-ledger.issue")
    assert "press a key within two minutes" in issue
    forbidding = "systemd-inhibit --what=shutdown --who=backup --mode=block sleep 1000000"
    real_pc.run("systemd-run", "--unit=backup", *forbidding.split())
    for _ in range(170):  # well beyond the two minutes
        wait_a_moment(real_pc)
    assert real_pc.is_on
    real_pc.run(
        "ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", "/home/bench/.ssh-key", user=True
    )
    real_pc.run(
        "sh", "-c", "mkdir -p -m 700 ~/.ssh && cp ~/.ssh-key.pub ~/.ssh/authorized_keys", user=True
    )
    typed = real_pc.tried(
        "sh",
        "-c",
        "(sleep 10; echo x; sleep 20; echo exit) | ssh -tt -i ~/.ssh-key"
        " -o StrictHostKeyChecking=no localhost",
        user=True,
    )
    night.until_off_or_over()
    real_pc.run("systemctl", "stop", "backup.service")
    real_pc.run("sh", "-c", "rm -rf ~/.ssh ~/.ssh-key*", user=True)
    assert plan_of(real_pc).ended == "night_somebody_came", typed
    night.assert_over("night_somebody_came")


def test_an_entry_that_was_changed_again_is_left_and_named(real_pc, job):
    """Somebody switched it otherwise by hand; everything else is put back."""
    night = Night(real_pc, job)
    night.off()
    night.on()
    night.until_off_or_over()
    night.on()
    assert "harbour-import.service" in plan_of(real_pc).boots[-1].off
    real_pc.run("systemctl", "add-wants", "rescue.target", "harbour-import.service")
    told = real_pc.tried("plucky-ledger", "night-shift", job, "--stop", user=True)
    link = "/etc/systemd/system/rescue.target.wants/harbour-import.service"
    assert "Not as it was at the beginning: " in told.stdout + told.stderr
    assert link in told.stdout + told.stderr
    real_pc.run("rm", "-r", os.path.dirname(link))
    assert everything(real_pc) == night.before


def test_a_home_that_is_missing_stops_only_the_users_part(real_pc, job):
    night = Night(real_pc, job)
    night.off()
    night.on()
    night.until_off_or_over()
    home = real_pc.path("/home/bench")
    home.rename(home.with_name("away"))
    real_pc.switch_on()
    while not plan_of(real_pc).tries:
        wait_a_moment(real_pc)
    assert not plan_of(real_pc).restored
    night.off()
    home.with_name("away").rename(home)
    night.on()
    night.until_off_or_over()
    night.assert_over("night_not_switched")
