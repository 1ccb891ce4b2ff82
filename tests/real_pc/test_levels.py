"""Each arming level on a real PC: take in, arm, restart, pick up; then everything is known."""

import shutil
import subprocess
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from plucky_ledger.capture.arming.starters import Starter
from plucky_ledger.core.boots.attribution import Owner, OwnerKind
from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import EntryKind, EntryOwner
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.pages.lanes import lanes_page
from plucky_ledger.pages.load import By, LoadQuestion, load_page
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import find_job, read_job
from plucky_ledger.usecases.reading.analyses import Analyses
from tests.real_pc.entries import (
    ADDED,
    ADDED_TO,
    BESIDE,
    HOSTED,
    HOSTED_SECONDS,
    MADE_BY,
    MOUNT,
    NEVER_STARTING,
    SCRIPT_SECONDS,
    SCRIPTS,
    STARTING,
)
from tests.real_pc.use import (
    EVERY_SOURCE,
    MARKS,
    SHARE,
    ledger_command,
    recordings,
    switched_on,
    wait_until_known,
)

TRACES = (
    "/etc/systemd/system/plucky-ledger-recorder.service",
    "/etc/systemd/system/sysinit.target.wants/plucky-ledger-recorder.service",
    "/var/lib/plucky-ledger/recorder",
    "/home/bench/.config/systemd/user/plucky-ledger-recorder.service",
    "/home/bench/.config/autostart/plucky-ledger-recorder.desktop",
)
MAY_RESTART = "/etc/polkit-1/rules.d/50-restart.rules"
MAY_RESTART_RULE = """
polkit.addRule(function(action, subject) {
    if (action.id.indexOf("org.freedesktop.login1.reboot") == 0 && subject.user == "bench")
        return polkit.Result.YES;
});
"""
SLOW = 0.3
TOLD_WITHIN_SECONDS = 60.0
LOG_IN_MEMORY, CLOCK_SET_BACK = "log in memory", "clock set back"
ZONES = {
    "de_DE": "Europe/Berlin",
    "fr_FR": "America/St_Johns",
    "tr_TR": "Asia/Kolkata",
    "ja_JP": "Australia/Lord_Howe",
}
"""Languages a PC speaks, each in a zone; three are off by half hours, one by a half in summer."""
NO_LANGUAGE = "C"
JUST_NOW, THIS_RUN = timedelta(minutes=10), timedelta(hours=3)
OTHER_TIME = Path(__file__).with_name("clock_set_back.c")
SETS_BACK = """[Unit]
Description=Time of day from the network
[Service]
Type=oneshot
ExecStart=/bin/sh -c "sleep 2; touch /run/clock-set-back"
"""
SET_BACK_BY = (
    "/etc/ld.so.preload",
    "/usr/local/lib/clock-set-back.so",
    "/etc/systemd/system/clock-set-back.service",
    "/etc/systemd/system/multi-user.target.wants/clock-set-back.service",
)


@pytest.mark.parametrize(
    ("level", "cores", "trouble"),
    [
        ("system", SLOW, ""),
        pytest.param("user", None, "", marks=pytest.mark.long),
        pytest.param("autostart", None, LOG_IN_MEMORY, marks=pytest.mark.long),
        pytest.param("system", None, CLOCK_SET_BACK, marks=pytest.mark.long),
        pytest.param("user", SLOW, "", marks=pytest.mark.long),
        pytest.param("autostart", SLOW, "", marks=pytest.mark.long),
        *(pytest.param("system", None, language, marks=pytest.mark.long) for language in ZONES),
    ],
)
def test_a_boot_comes_home_whole(real_pc, tmp_path, level, cores, trouble):
    """Switched off as soon as start-up is over: what was asked for by then is all there is."""
    switched_on(real_pc)
    if trouble == CLOCK_SET_BACK:
        make_clock_go_back(real_pc)
    if trouble in ZONES:
        make_it_speak(real_pc, trouble, ZONES[trouble])
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", f"{level} PC").strip()
    if level == "system":
        arm_and_restart(real_pc, job)
    else:
        ledger_command(real_pc, "arm", job, f"--{level}", "--boots", "1")
        if trouble == LOG_IN_MEMORY:
            real_pc.run("rm", "-r", "/var/log/journal")
        real_pc.tried("systemctl", "reboot")
    real_pc.wait_until_off()
    real_pc.switch_on(cores)
    real_pc.wait_until_up()
    wait_until_known(real_pc)
    real_pc.switch_off()
    assert not [trace for trace in TRACES if real_pc.path(trace).is_symlink()]
    assert not [trace for trace in TRACES if real_pc.path(trace).exists()]
    for path in SET_BACK_BY:
        real_pc.path(path).unlink(missing_ok=True)
    switched_on(real_pc)
    ledger_command(real_pc, "pick-up", job)
    assert not recordings(real_pc)
    if trouble in ZONES:
        assert real_pc.tried("locale", "-a").stdout.count(trouble) == 1
        speaking = f"LANG={trouble}.UTF-8"
        past = ("plucky-ledger", "past-boots", job, "--administrator")
        real_pc.run("env", speaking, *past, user=True)
        make_it_speak(real_pc, NO_LANGUAGE, "Etc/UTC")
    with opened_copy(real_pc, tmp_path) as ledger:
        number = find_job(ledger, job)
        boots = read_job(ledger, number).boots
        (boot,) = [one for one in boots if one.how is How.RECORDED]
        assert abs(datetime.now(UTC) - boot.started_at) < JUST_NOW or trouble == CLOCK_SET_BACK
        logged = [one for one in boots if one.how is How.JOURNAL]
        assert bool(logged) is (trouble in ZONES)
        for one in logged:
            assert Mark.SYSTEM_UP in one.marks
            assert abs(boot.started_at - one.started_at) < THIS_RUN
        analysis = Analyses().of(ledger, number, boot)
    assert not boot.cut_short
    assert set(boot.marks) >= MARKS
    assert_entries_are_known(analysis.timeline, real_pc)
    assert_work_has_owners(analysis, level)


def test_a_full_disk_is_told_and_the_pc_stays_armed(real_pc):
    """What recordings are written to is full when the recorder starts."""
    switched_on(real_pc)
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "Full PC").strip()
    ledger_command(real_pc, "arm", job, "--system", "--boots", "2")
    folder = Starter(Level.SYSTEM, real_pc.path(TRACES[0])).read().folder
    full = real_pc.path("/etc/fstab")
    kept = full.read_text()
    full.write_text(f"{kept}tmpfs {folder} tmpfs size=1m,uid=1000,gid=1000 0 0\n")
    real_pc.tried("systemctl", "reboot")
    real_pc.wait_until_off()
    real_pc.switch_on()
    real_pc.wait_until_up()
    deadline = time.monotonic() + TOLD_WITHIN_SECONDS
    while "are free in" not in (told := ledger_command(real_pc, "pick-up", job)):
        # The recorder opens its file only once file systems are there.
        assert time.monotonic() < deadline, told
        time.sleep(1.0)
    ledger_command(real_pc, "disarm", job)
    full.write_text(kept)
    real_pc.switch_off()
    assert not [trace for trace in TRACES if real_pc.path(trace).exists()]


def make_clock_go_back(pc):
    """Two seconds into the service manager's work, an hour, on the next start."""
    library, service, wanted = (pc.path(path) for path in SET_BACK_BY[1:])
    if shutil.which("cc") is None:
        pytest.skip("it takes a C compiler")
    subprocess.run(["cc", "-shared", "-fPIC", "-O2", "-o", library, OTHER_TIME], check=True)
    service.write_text(SETS_BACK)
    wanted.symlink_to(f"../{service.name}")
    pc.path(SET_BACK_BY[0]).write_text("/usr/local/lib/clock-set-back.so\n")


def make_it_speak(pc, language, zone):
    """From the next start on, all of it."""
    for path in ("/etc/locale.conf", "/etc/default/locale"):
        pc.path(path).write_text(f"LANG={language}.UTF-8\n")
    pc.path("/etc/localtime").unlink()
    pc.path("/etc/localtime").symlink_to(f"/usr/share/zoneinfo/{zone}")


def arm_and_restart(pc, job):
    """As early as can be had, which is the best here; refused until the user may restart it."""
    pc.path(MAY_RESTART).unlink(missing_ok=True)
    pc.run("systemctl", "restart", "polkit")
    arm = ("plucky-ledger", "arm", job, "--boots", "1", "--restart")
    refused = pc.tried(*arm, user=True)
    assert refused.returncode == 1
    assert "stays armed" in refused.stderr
    assert pc.path(TRACES[0]).exists()
    ledger_command(pc, "disarm", job)
    pc.path(MAY_RESTART).write_text(MAY_RESTART_RULE)
    pc.run("systemctl", "restart", "polkit")
    assert "Nothing is missed" in pc.tried(*arm, user=True).stdout  # it may go down with the PC


def assert_entries_are_known(timeline, pc):
    """All nine with owner and kind; those that start with what they did, once for all."""
    entries = {entry.entry_id: entry for entry in timeline.entries}
    activities = {activity.entry_id: activity for activity in timeline.activities}
    assert set(entries) >= {*STARTING, *NEVER_STARTING}
    assert not [name for name in entries if "plucky" in name]
    for name in (*STARTING, *NEVER_STARTING):
        assert entries[name].kind is not EntryKind.UNKNOWN
        assert entries[name].owner is not EntryOwner.UNKNOWN
    for name in STARTING:
        did = activities[name]
        assert did.starting_from < did.up_at
        assert did.cpu_seconds, name
    imported, clock = activities["harbour-import.service"], activities["tideclock-sync.service"]
    assert imported.up_at == imported.ended_at
    assert imported.up_at - imported.starting_from > 4.0
    assert clock.entry_id in imported.after
    assert clock.up_at <= imported.starting_from
    for name in NEVER_STARTING:
        assert entries[name].off_because is not None
    hosted = hosted_in(timeline)
    assert set(hosted) == set(HOSTED)
    for path, line in hosted.items():
        assert (line.kind, line.name) == (HOSTED[path][0], "startup-work")
        of_the_user = path.startswith("home") or line.kind is EntryKind.BUS_PROGRAM
        assert (line.owner is EntryOwner.USER) is of_the_user
    mount = entries[MOUNT]
    assert (mount.kind, mount.origin) == (EntryKind.MOUNT, "/etc/fstab")
    assert not mount.part_of_system
    assert activities[MOUNT].up_at is not None
    for unit, (path, _) in SCRIPTS.items():
        if not pc.path(f"/usr/lib/systemd/system-generators/{MADE_BY[unit]}").exists():
            assert unit not in entries  # from 260 on nothing starts such a script
            continue
        script = entries[unit]
        assert (script.kind, script.origin) == (EntryKind.SYSTEM_SERVICE, f"/{path}")
        assert not script.part_of_system
        assert activities[unit].cpu_seconds == pytest.approx(SCRIPT_SECONDS, abs=0.2)
    assert (entries[ADDED_TO].beside, entries[ADDED_TO].drop_ins) == ((BESIDE,), (f"/{ADDED}",))
    assert not entries[ADDED_TO].part_of_system
    one_program = [e for e in timeline.entries if unwrapped(e.command).name == "startup-work"]
    assert len(one_program) >= 7
    looked = {one.source: one for one in timeline.sources}
    assert set(looked) == EVERY_SOURCE
    assert looked[StartSource.OWN_SHELL_FILES].files >= 1


def hosted_in(timeline):
    """The entries that files of our own start, by these files."""
    return {entry.origin[1:]: entry for entry in timeline.entries if entry.origin[1:] in HOSTED}


def assert_work_has_owners(analysis, level):
    """Lanes draw all that start; Load charges what was seen to whom it belongs."""
    lanes = {lane.entry_id: lane for lane in lanes_page(analysis).lanes}
    assert all(lanes[name].starting is not None for name in STARTING)
    until_up = (0.0, analysis.boot.marks[Mark.SYSTEM_UP])
    rows = load_page(analysis, LoadQuestion(until_up, By.ENTRY)).rows
    assert {row.kind for row in rows} > {OwnerKind.ENTRY}
    # It holds 120 MB, and has eight children that it was forked into with all of it.
    (agent,) = [row for row in rows if row.name == "Lanternprint agent"]
    assert 120e6 < agent.amounts.memory_bytes < 170e6
    assert agent.amounts.processes == 9
    work = analysis.attribution.work
    total = sum(part.cpu_seconds[-1] for part in work.values())
    assert total == pytest.approx(analysis.samples.cpu_seconds[-1], rel=1e-9)
    if level == "system":  # it was there before them
        for path, line in hosted_in(analysis.timeline).items():
            charged = work[Owner(OwnerKind.ENTRY, line.entry_id)].cpu_seconds[-1]
            if line.kind is EntryKind.HOOK:  # at every sign-in, also those of the tests
                assert charged > 0.8 * HOSTED_SECONDS / 4
            else:
                assert charged == pytest.approx(HOSTED_SECONDS, abs=0.08), path
        imported = work[Owner(OwnerKind.ENTRY, "harbour-import.service")].cpu_seconds[-1]
        assert imported == pytest.approx(4.0, rel=0.15)


def opened_copy(pc, folder):
    """The ledger, looked at here."""
    copy = shutil.copy(pc.path(SHARE) / "workshop.ledger", folder / "copy.ledger")
    return Ledger(copy)
