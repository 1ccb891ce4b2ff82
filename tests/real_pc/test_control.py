"""Switching on a real PC: every kind to every state and back, cut off, refused, out of room."""

import json
import textwrap
import time

import pytest

from tests.real_pc.conftest import FAILED
from tests.real_pc.disk import MAY_BECOME_ROOT
from tests.real_pc.use import switched_on

pytestmark = pytest.mark.usefixtures("at_ease")
PYTHON = "/opt/plucky/bin/python"
BEGIN = """
import hashlib, json, os, signal, subprocess, sys
from pathlib import Path
from plucky_ledger.control import switching, writes
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.control_of_this_pc import ControlOfThisPc
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import EntryRequest
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.start_files.bus_files import delivered
from plucky_ledger.linux.start_files.sources import start_lines

IDS = ("tideclock-sync.service", "harbour-import.service", "cron.service", "ssh.service",
       "avahi-daemon.service", "systemd-logind.service", "polkit.service", "apt-daily.service",
       "systemd-tmpfiles-clean.service", "tide-report.service",
       "user:ticketdesk-cache.service", "user:at-spi-dbus-bus.service", "logbook-tray.desktop",
       "brassbell-notifier.desktop", "oldpier-updater.desktop", "windlass-toolbar.desktop",
       "capstan.service")
LINES = {line.file: i for i, line in start_lines().items()}
TABLE_LINE, OWN_LINE = LINES["/etc/cron.d/mooring"], LINES.get("")
(CALLED,) = [i for i, line in delivered(Path("/"), False).items() if "Tide" in line.file]
IDS = (*IDS, TABLE_LINE, *([OWN_LINE, CALLED] if OWN_LINE else ()))
control = ControlOfThisPc()

def looked(ids=IDS):
    return control.look(ids)

def switch(key, states):
    wishes = tuple(EntryRequest(i, i, EntryState(state)) for i, state in states.items())
    done = control.switch(SwitchRequest(key, "0001", "x", wishes))
    return {one.entry_id: one.after for one in done}

def tell(value):
    print(json.dumps(value))
"""
EACH_STATE_AND_BACK = """
at_first = looked()
told, turn = [], 0
while any(len(found.possible) > turn for found in at_first.values()):
    states = {i: f.possible[turn] for i, f in at_first.items() if len(f.possible) > turn}
    for entry, after in switch(f"turn {turn}", states).items():
        wished = states[entry]
        if wished is EntryState.AS_DELIVERED:
            wished = at_first[entry].delivered
        told.append((entry, states[entry], wished == after))
    turn += 1
back = control.put_back(RevertSelection())
tell({"told": told, "possible": sum(len(found.possible) for found in at_first.values()),
      "back": len(back), "same": looked() == at_first,
      "report": [*at_first["tide-report.service"].possible]})
"""
OFF = {
    "avahi-daemon.service": "off",
    "cron.service": "later",
    "harbour-import.service": "off_for_good",
    "user:ticketdesk-cache.service": "off",
    "logbook-tray.desktop": "later",
}
OFF_OF_SYSTEM = {
    entry: state
    for entry, state in OFF.items()
    if entry.endswith(".service") and not entry.startswith("user:")
}
OFF_OF_USER = {entry: state for entry, state in OFF.items() if entry not in OFF_OF_SYSTEM}
TROUBLE_TOLD = """
try:
    switch("refused", OFF)
except Trouble as trouble:
    tell(trouble.code)
"""
DYING = """
left, real = int(sys.argv[1]), writes.carry_out
def dying(write):
    global left
    if left == 0:
        os.kill(os.getpid(), signal.SIGKILL)
    left -= 1
    real(write)
"""
KILLED_MAKING = f"{DYING}switching.carry_out = dying\nswitch('killed', OFF)\ntell(left)"
KILLED_GOING_BACK = f"""{DYING}
switch('killed', OFF)
switching.carry_out = dying
control.put_back(RevertSelection())
tell(left)
"""


PUT_BACK = "tell(len(control.put_back(RevertSelection())))"
OWN_TABLE = '# tides of mine\nMAILTO=""\n@reboot /usr/bin/true my-tide\n5 5 * * * /usr/bin/true\n'
BY_A_TIMER_OF_ANOTHER_NAME = {
    "tide-report.service": "[Service]\nExecStart=/bin/true\n",
    "weekly-tide.timer": "[Timer]\nOnCalendar=weekly\nUnit=tide-report.service\n"
    "[Install]\nWantedBy=timers.target\n",
}


@pytest.fixture(scope="module")
def pc(real_pc):
    switched_on(real_pc)
    for name, text in BY_A_TIMER_OF_ANOTHER_NAME.items():
        real_pc.path(f"/etc/systemd/system/{name}").write_text(text)
    real_pc.run("systemctl", "daemon-reload")
    real_pc.run("systemctl", "enable", "--now", "weekly-tide.timer")
    real_pc.path("/root/table").write_text(OWN_TABLE)
    real_pc.run("crontab", "-u", "bench", "/root/table")
    return real_pc


@pytest.fixture(autouse=True)
def what_failed_leaves_nothing_switched(request, real_pc):
    """The PC is that of the tests to come, too."""
    yield
    if request.node.stash.get(FAILED, False):
        switched_on(real_pc)
        scripted(real_pc, PUT_BACK)


def scripted(pc, script, *arguments, user=True, off=OFF):
    """What a script in there tells; its exit status where it tells nothing."""
    path = "/home/bench/script.py" if user else "/root/script.py"
    more = "OFF |= {OWN_LINE: 'off', CALLED: 'off'}\n" if user else "OFF[TABLE_LINE] = 'off'\n"
    pc.path(path).write_text(f"{BEGIN}\nOFF = {off!r}\n{more}{textwrap.dedent(script)}")
    done = pc.tried(PYTHON, path, *arguments, user=user, timeout=300.0)
    pc.path(path).unlink()
    assert done.stdout or done.returncode < 0, done.stderr
    return json.loads(done.stdout.splitlines()[-1]) if done.stdout else done.returncode


def everything(pc):
    """All that switching could touch: files with their rights, and what both managers say."""
    found = pc.run(
        "sh",
        "-c",
        "cd / && find etc home/bench/.config home/bench/.local/share/dbus*"
        " -printf '%p %y %m %l\\n' 2>/dev/null | sort;"
        " find etc home/bench/.config -type f -exec sha1sum {} + | sort;"
        " { crontab -u bench -l; stat -c '%U %G %a' var/spool/cron/crontabs/bench; } 2>&1; true",
    )
    listed = ("list-unit-files", "--no-pager", "--no-legend")
    units = pc.run("systemctl", *listed) + pc.run("systemctl", "--user", *listed, user=True)
    lasting = (line for line in units.splitlines() if "transient" not in line)
    return [*found.splitlines(), *sorted(lasting)]


def test_every_kind_is_set_to_every_state_and_put_back_byte_for_byte(pc):
    before = everything(pc)
    told = scripted(pc, EACH_STATE_AND_BACK)
    assert [entry for entry in told["told"] if not entry[2]] == []
    assert {"on", "off"} <= set(told["report"])  # through its timer, once that is off, too
    assert len(told["told"]) == told["possible"] > 50
    assert told["same"]
    assert everything(pc) == before


@pytest.mark.parametrize("script", [KILLED_MAKING, KILLED_GOING_BACK])
@pytest.mark.parametrize(("user", "off"), [(True, OFF_OF_USER), (False, OFF_OF_SYSTEM)])
def test_a_kill_between_any_two_writes_is_put_back_by_the_next(pc, script, user, off):
    """Whoever changes anything next puts back what was cut off, and nothing is done twice."""
    before = everything(pc)
    finished, at = False, 0
    while not finished:
        finished = scripted(pc, script, str(at), user=user, off=off) >= 0
        left = "tell([c.entries for c in control.changes() if c.entries or c.unfinished])"
        back = scripted(pc, f"control.put_back(RevertSelection()); {left}", user=user)
        assert back == []
        assert everything(pc) == before, at
        at += 1
    assert at > 4


def test_after_a_power_cut_in_the_middle_everything_is_as_it_was(pc):
    switched_on(pc)
    before = everything(pc)
    script = KILLED_MAKING.replace("os.kill(os.getpid(), signal.SIGKILL)", "signal.pause()")
    pc.path("/root/script.py").write_text(f"{BEGIN}\nOFF = {OFF_OF_SYSTEM!r}\n{script}")
    pc.run("systemd-run", "--quiet", "--no-block", PYTHON, "/root/script.py", "3")
    gone = pc.path("/etc/systemd/system/dbus-org.freedesktop.Avahi.service")
    for _ in range(100):
        if not gone.is_symlink():
            break
        time.sleep(0.1)
    pc.cut_power()
    pc.path("/root/script.py").unlink()
    switched_on(pc)
    assert everything(pc) != before
    scripted(pc, "tell(len(control.put_back(RevertSelection(cut_off=True))))")
    assert everything(pc) == before


def test_who_may_not_become_administrator_changes_nothing(pc):
    before = everything(pc)
    rule = pc.path(MAY_BECOME_ROOT)
    kept = rule.read_text()
    rule.unlink()
    try:
        told = scripted(pc, TROUBLE_TOLD)
    finally:
        rule.write_text(kept)
    assert told == "not_the_administrator"
    assert everything(pc) == before
    assert scripted(pc, PUT_BACK, user=True) == 0


RUN_BY_CRON = """
import time
def run_at_the_start():
    # Cron knows by a file that it was started before in this boot.
    Path("/run/crond.reboot").unlink(missing_ok=True)
    since = f"@{int(time.time())}"
    subprocess.run(["systemctl", "restart", "cron"], check=True)
    time.sleep(4)
    said = ["journalctl", "--since", since, "-t", "CRON", "-o", "cat", "--no-pager"]
    done = subprocess.run(said, capture_output=True, text=True, check=True).stdout
    return "startup-work" in done
ran = [run_at_the_start()]
switch("line", {TABLE_LINE: "off"})
ran.append(run_at_the_start())
marked = Path("/etc/cron.d/mooring").read_text()
state = looked([TABLE_LINE])[TABLE_LINE].state
control.put_back(RevertSelection())
ran.append(run_at_the_start())
tell({"ran": ran, "marked": marked, "state": state})
"""


def test_a_line_of_the_systems_tables_that_is_off_is_not_run(pc):
    before = everything(pc)
    told = scripted(pc, RUN_BY_CRON, user=False)
    assert told["ran"] == [True, False, True]
    assert told["state"] == "off"
    assert all(line.startswith("#") for line in told["marked"].splitlines() if "reboot" in line)
    assert everything(pc) == before


def test_a_line_of_ones_own_table_is_switched_as_oneself(pc):
    before = everything(pc)
    ran = [run_by_cron(pc, "my-tide")]
    state = scripted(pc, "tell(switch('mine', {OWN_LINE: 'off'})[OWN_LINE])")
    assert state == "off"
    ran.append(run_by_cron(pc, "my-tide"))
    recorded = scripted(pc, "tell([line.off for line in start_lines().values() if not line.file])")
    assert recorded == [True]
    scripted(pc, PUT_BACK)
    ran.append(run_by_cron(pc, "my-tide"))
    assert ran == [True, False, True]
    assert everything(pc) == before


def test_a_program_of_the_bus_that_is_off_is_not_started_by_it(pc):
    before = everything(pc)
    started = [started_by_the_bus(pc)]
    state = scripted(pc, "tell(switch('called', {CALLED: 'off'})[CALLED])")
    assert state == "off"
    started.append(started_by_the_bus(pc))
    scripted(pc, PUT_BACK)
    started.append(started_by_the_bus(pc))
    assert started == [True, False, True]
    assert everything(pc) == before


def started_by_the_bus(pc):
    """Whether the bus of the session starts a program whose name is called."""
    program = "startup-work.*[b]us_program"
    pc.tried("pkill", "-f", program)
    call = ("org.example.Tide", "/", "org.freedesktop.DBus.Peer", "Ping")
    pc.tried("busctl", "--user", "--timeout=3", "call", *call, user=True)
    return pc.tried("pgrep", "-f", program).returncode == 0


def run_by_cron(pc, command):
    """Whether cron runs a command when it is started for the first time in a boot."""
    pc.run("rm", "-f", "/run/crond.reboot")
    # By the place in the log: what ran a moment ago may bear the same second.
    newest = pc.run("journalctl", "-n", "1", "-o", "cat", "--show-cursor", "--no-pager")
    after = newest.splitlines()[-1].removeprefix("-- cursor: ")
    pc.run("systemctl", "restart", "cron")
    log = ("journalctl", f"--after-cursor={after}", "-t", "CRON", "-o", "cat", "--no-pager")
    said, since_the_last = "", 0
    for _ in range(60):
        time.sleep(0.5)
        last, said = said, pc.run(*log)
        since_the_last = since_the_last + 1 if said == last else 0
        # The system's own line has been run, and for a while no other.
        if "startup-work" in said and (command in said or since_the_last > 6):
            break
    return command in said


def test_what_still_starts_an_entry_is_said(pc):
    told = scripted(
        pc,
        """
        found = looked(["systemd-logind.service", "avahi-daemon.service"])
        tell([[str(r.code), *r.facts.values()] for f in found.values() for r in f.started_by])
        """,
    )
    assert ["wanted_by", "display-manager.service"] in told
    assert ["switched_with", "avahi-daemon.socket"] in told


def test_a_socket_is_switched_with_the_service_it_starts(pc):
    """A service that nothing but its socket starts: off is off, and put back is as it was."""
    before = everything(pc)
    enabled = "/etc/systemd/system/sockets.target.wants/buoy.socket"
    found = scripted(
        pc,
        """
        (found,) = looked(["buoy.service"]).values()
        tell([found.state, *found.possible, *[str(r.code) for r in found.started_by]])
        """,
    )
    assert found == ["when_needed", "when_needed", "off", "off_for_good", "switched_with"]
    after = scripted(
        pc,
        """
        wish = EntryRequest("buoy.service", "Buoy", EntryState.OFF)
        (done,) = control.switch(SwitchRequest("buoy", "0001", "bench", (wish,)))
        tell([done.after, len(done.started_by)])
        """,
    )
    assert after == ["off", 0]
    assert not pc.path(enabled).is_symlink()
    scripted(pc, PUT_BACK)
    assert everything(pc) == before


@pytest.mark.parametrize(
    ("folder", "options"),
    [
        ("/etc/systemd/system", ()),
        ("/home/bench/.config", ()),
        ("/var/lib/plucky-ledger", ("-t", "tmpfs", "-o", "size=4k")),
    ],
)
def test_no_room_or_no_right_to_write_changes_nothing(pc, folder, options):
    """What cannot be written is noticed before anything is changed, or everything goes back."""
    before = everything(pc)
    if options:
        pc.run("mount", *options, "tmpfs", folder)
    else:
        pc.run("mount", "--bind", folder, folder)
        pc.run("mount", "-o", "remount,bind,ro", folder)
    try:
        told = scripted(pc, TROUBLE_TOLD)
    finally:
        pc.run("umount", folder)
    assert told == "not_switched"
    assert everything(pc) == before


def test_what_was_switched_does_not_start_with_the_pc(pc):
    switched_on(pc)
    before = everything(pc)
    scripted(pc, 'tell(bool(switch("restart", OFF)))')
    pc.switch_off()
    switched_on(pc)
    running = pc.run("ps", "-A", "-o", "args")
    for name in ("harbour-import", "ticketdesk-cache", "avahi-daemon"):
        assert name not in running
    assert "sleep 180" in running  # the sign-in program that starts later
    asked = ("systemctl", "show", "--property=ActiveState", "--value")
    assert pc.run(*asked, "cron.service").strip() == "inactive"
    assert pc.run(*asked, "plucky-ledger-later-cron.timer").strip() == "active"
    scripted(pc, PUT_BACK)
    assert everything(pc) == before
