"""Files whose lines start programs: found, named, charged, switched by hand."""

import os

import pytest

from plucky_ledger.capture.services.start_files import lines_of
from plucky_ledger.control import by_hand
from plucky_ledger.core.boots.attribution import Owner, OwnerKind, owners_of
from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.kinds import Switcher, is_users_own, switched_by
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.inventory import inventory_of
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.exchange.entries import _entry
from plucky_ledger.linux.start_files import sources, tables
from plucky_ledger.linux.start_files.fstab import fstab_lines
from plucky_ledger.linux.start_files.shell_files import commands_in
from plucky_ledger.linux.start_files.sources import (
    looked_for_the_person,
    looked_for_the_system,
)
from plucky_ledger.recording.lines import EntryLine, SourceLine
from plucky_ledger.wording.switching import set_in_words
from tests.helpers.runs import run

SYSTEMS = """\
# @reboot root /opt/commented
MAILTO=root
@reboot root /opt/tide/import --all
  @Reboot\twarden sh -c "sleep 20; exec /opt/quay/desk" % its input
@daily root /opt/daily
@reboot nobody
@reboot root /opt/tide/import --all
"""
USERS = "@reboot /opt/till/agent 100\\% sure\n*/5 * * * * /opt/often\n"


@pytest.fixture
def pc(tmp_path, monkeypatch):
    for path, text in (
        ("etc/crontab", SYSTEMS),
        ("etc/cron.d/quay", "@reboot root /opt/quay/scan\n"),
        ("etc/cron.d/quay.dpkg-old", "@reboot root /opt/not/read\n"),
        ("var/spool/cron/crontabs/warden", USERS),
    ):
        (tmp_path / path).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / path).write_bytes(text.encode() + b"\xff\n")
    monkeypatch.setattr(tables, "is_administrator", lambda: True)
    return tmp_path


def test_every_table_that_the_daemon_reads_is_read_as_it_does(pc):
    found = tables.every_table(pc).lines
    assert [(line.user, line.command) for line in found] == [
        ("root", "/opt/tide/import --all"),
        ("warden", 'sh -c "sleep 20; exec /opt/quay/desk"'),
        ("root", "/opt/quay/scan"),
        ("warden", "/opt/till/agent 100% sure"),
    ]
    assert len({line.entry_id for line in found}) == 4
    assert all("/" not in line.entry_id for line in found)


def test_who_is_no_administrator_reads_their_own_by_the_daemons_program(pc, monkeypatch):
    program = pc / "bin" / "crontab"
    program.parent.mkdir()
    program.write_text('#!/bin/sh\n[ "$1" = -l ] && echo "@reboot /opt/own"\n')
    program.chmod(0o755)
    monkeypatch.setattr(tables, "is_administrator", lambda: False)
    monkeypatch.setenv("PATH", str(program.parent), prepend=":")
    *_, own = tables.every_table(pc).lines
    assert (own.command, own.file) == ("/opt/own", "")
    program.unlink()
    assert len(tables.every_table(pc).lines) == 3


def test_its_programs_are_charged_to_it_and_not_to_what_started_them(pc):
    told = lines_of([tables.every_table(pc)])
    entries = tuple(_entry(line) for line in told if isinstance(line, EntryLine))
    assert {entry.kind for entry in entries} == {EntryKind.BOOT_LINE}
    assert [entry.name for entry in entries] == ["import", "desk", "scan", "agent"]
    # Who reads a table only as administrator would have its lines come and go in the book.
    assert not inventory_of(entries, Facts()).entries
    assert [entry.owner for entry in entries] == ["system", "system", "system", "user"]
    group = "/system.slice/cron.service"
    runs = tuple(
        run(number, number, parent, name, command, group)
        for number, name, command, parent in (
            (10, "cron", "/usr/sbin/cron -f", 1),
            (11, "sh", "/bin/sh -c '/opt/tide/import --all'", 10),
            (12, "import", "/opt/tide/import --all", 11),
            (13, "tar", "tar x", 12),
            (14, "sh", "/bin/sh -c /opt/often", 10),
            (15, "import", "/opt/tide/import --one", 1),
        )
    )
    owners = owners_of(runs, entries)
    charged = Owner(OwnerKind.ENTRY, entries[0].entry_id)
    assert {number for number, owner in owners.items() if owner == charged} == {11, 12, 13}


def test_the_exact_step_is_told(pc, monkeypatch):
    found = {line.entry_id: line for line in tables.every_table(pc).lines}
    monkeypatch.setattr(by_hand, "start_lines", lambda: found)
    first = tables.every_table(pc).lines[0]
    assert switched_by(first.entry_id) is Switcher.TABLES
    assert not is_users_own(first.entry_id)
    looked = by_hand.looked_up_by_hand([first.entry_id, "table:crontab:gone"])
    switchable = looked[first.entry_id]
    assert (switchable.state, switchable.possible) == (EntryState.ON, ())
    (step,) = set_in_words(switchable)
    assert step.startswith(f"to switch it off, put a # before this line in {pc}/etc/crontab: @reb")
    assert looked["table:crontab:gone"].state is None  # it may only not be for us to read
    *_, users = tables.every_table(pc).lines
    told = set_in_words(by_hand.looked_up_by_hand([users.entry_id])[users.entry_id])
    assert "run “crontab -e” as warden and put a #" in told[0]


FILES = {
    "home/.profile": """\
# mesg n
umask 022
[ -d "$HOME/bin" ] && PATH="$HOME/bin:$PATH"
if [ -n "$BASH" ]; then . ~/.bashrc; fi
~/bin/tide-watch --quiet &
[ -x /opt/quay/tray ] && /opt/quay/tray >/dev/null 2>&1 &
xset b off
""",
    "home/.xinitrc": "exec $SESSION\nexec /opt/quay/session\n",
    "home/.config/openbox/autostart": (
        "sh -c 'sleep 2; exec /opt/late/two' &\n[ -x \"~/b\" ] && ~/three --in &\n"
        "/opt/till/agent --tray & # till\n(sleep 5; /opt/late/one) &\n"
    ),
    "home/.config/i3/config": "bindsym $mod+d exec menu\nexec --no-startup-id mooring --now\n",
    "home/.config/autostart-scripts/lantern.sh": "#!/bin/sh\n",
    "etc/xdg/lxsession/QUAY/autostart": "# none\n@foghorn --low\n",
    "etc/profile.d/warden.sh": "export A=1\nnohup /opt/warden/seat --all >/tmp/x &\n",
    "etc/NetworkManager/dispatcher.d/50-tide": "#!/bin/sh\n",
    "etc/network/if-up.d/not-run": "no right to run\n",
    "etc/udev/rules.d/70-quay.rules": """\
# RUN+="/opt/commented"
ACTION=="add", SUBSYSTEM=="usb", RUN+="/opt/quay/plugged $kernel", PROGRAM="ask"
ACTION=="add", RUN{builtin}+="kmod load x"
""",
    "usr/lib/NetworkManager/dispatcher.d/50-tide": "#!/bin/sh\n",
    "usr/lib/NetworkManager/dispatcher.d/60-pier": "#!/bin/sh\n",
    "usr/lib/systemd/system-generators/systemd-fstab-generator": "#!/bin/sh\n",
    "usr/lib/udev/rules.d/70-quay.rules": 'RUN+="/opt/hidden/by/the/own"\n',
    "usr/lib/udev/rules.d/60-disk.rules": (
        'IMPORT{program}="ata_id --export $devnode", RUN+="/bin/udevadm trigger"\n'
        'ENV{X}=="1", RUN+="pier-light --on"\n'
    ),
    "etc/modules-load.d/quay.conf": "# none\nquay_net\n",
    "etc/pam.d/sign-in": "session optional pam_exec.so seteuid /opt/quay/greet --late\n",
    "usr/share/dbus-1/services/org.example.Tide.service": (
        "[D-BUS Service]\nName=org.example.Tide\nExec=/opt/tide/called --bus\n"
    ),
    "usr/share/dbus-1/services/org.example.Never.service": (
        "[D-BUS Service]\nName=org.example.Never\nExec=/opt/never\n"
    ),
    "usr/share/dbus-1/services/org.example.Unit.service": (
        "[D-BUS Service]\nExec=/opt/tide/called\nSystemdService=tide.service\n"
    ),
    "usr/share/dbus-1/services/broken.service": "[D-BUS Service\n\0",
    "proc/77/cmdline": "/opt/tide/called\0--bus\0",
    "proc/78/cmdline": "",
}
STARTED = [
    ("hook", "50-tide", ""),
    ("hook", "60-pier", ""),
    ("hook", "plugged", "$kernel"),
    ("hook", "ask", ""),
    ("hook", "pier-light", "--on"),
    ("hook", "greet", "--late"),
    ("hook", "quay_net", ""),
    ("shell line", "seat", "--all"),
    ("desktop line", "foghorn", "--low"),
    ("shell line", "tide-watch", "--quiet"),
    ("shell line", "tray", ""),
    ("shell line", "session", ""),
    ("desktop line", "two", ""),
    ("desktop line", "three", "--in"),
    ("desktop line", "agent", "--tray"),
    ("desktop line", "one", ""),
    ("desktop line", "mooring", "--now"),
    ("desktop line", "lantern.sh", ""),
    ("bus program", "called", "--bus"),
]


@pytest.fixture
def whole_pc(tmp_path):
    for path, text in FILES.items():
        (tmp_path / path).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / path).write_text(text)
    for script in (
        "etc/NetworkManager/dispatcher.d/50-tide",
        "usr/lib/NetworkManager/dispatcher.d/50-tide",
        "usr/lib/NetworkManager/dispatcher.d/60-pier",
        "usr/lib/systemd/system-generators/systemd-fstab-generator",
    ):
        (tmp_path / script).chmod(0o755)
    (tmp_path / "etc/profile.d/loop.sh").symlink_to("loop.sh")
    os.mkfifo(tmp_path / "home/.bash_profile")
    return tmp_path


def everything(root):
    home = root / "home"
    return [*looked_for_the_system(root), *looked_for_the_person(home, home / ".config", root)]


def test_every_file_that_starts_something_is_read_by_its_own_rules(whole_pc):
    told = list(lines_of(everything(whole_pc)))
    entries = [line for line in told if isinstance(line, EntryLine)]
    found = [
        (line.starts, line.name, " ".join(unwrapped(line.command).arguments)) for line in entries
    ]
    assert found == STARTED
    assert len({line.entry for line in entries}) == len(entries)
    called = [line for line in entries if switched_by(line.entry) is not Switcher.BY_HAND]
    assert [(line.name, switched_by(line.entry)) for line in called] == [
        ("called", Switcher.BUS_FILES)
    ]
    (watch,) = [line for line in entries if line.name == "tide-watch"]
    assert watch.command == f"{whole_pc}/home/bin/tide-watch --quiet"
    assert watch.owner == "user"
    looked = {line.source: line for line in told if isinstance(line, SourceLine)}
    assert looked["own_shell_files"].files == 2  # what is no plain file is passed by
    assert looked["session_bus"].entries == 1


def test_each_is_charged_with_its_own_programs_also_when_given_more(whole_pc):
    told = lines_of(everything(whole_pc))
    entries = tuple(_entry(line) for line in told if isinstance(line, EntryLine))
    by_name = {entry.name: entry.entry_id for entry in entries}
    session, network = "/user.slice/session-1.scope", "/system.slice/network.service"
    home = whole_pc / "home"
    hook = whole_pc / "etc/NetworkManager/dispatcher.d/50-tide"
    runs = tuple(
        run(number, number, parent, name, command, group)
        for number, name, command, group, parent in (
            (9, "bash", "-bash", session, 1),
            (10, "tide-watch", f"{home}/bin/tide-watch --quiet", session, 9),
            (11, "sh", f"/bin/sh {hook} eth0 up", network, 1),
            (12, "curl", "curl x", network, 11),
            (13, "called", "/opt/tide/called --bus", "/user.slice/dbus.service", 1),
            (14, "agent", "/opt/till/agent --other", session, 9),
        )
    )
    owners = owners_of(runs, entries)
    charged = {number: owners[number].entry_id for number in owners}
    assert charged[10] == by_name["tide-watch"]
    assert charged[11] == charged[12] == by_name["50-tide"]
    assert charged[13] == by_name["called"]
    assert charged[14] != by_name["agent"]


def test_each_has_its_own_step_by_hand(whole_pc, monkeypatch):
    lines = {line.entry_id: line for one in everything(whole_pc) for line in one.lines}
    monkeypatch.setattr(by_hand, "start_lines", lambda: lines)
    steps = {
        line.command: set_in_words(by_hand.looked_up_by_hand([entry])[entry])[0]
        for entry, line in lines.items()
    }
    assert "put a # before this line in" in steps["/opt/quay/tray"]
    assert steps[f"{whole_pc}/home/.config/autostart-scripts/lantern.sh"].startswith(
        "to switch it off, take away its right to run: chmod -x"
    )
    assert "to ~/.local/share/dbus-1/services and write" in steps["/opt/tide/called --bus"]


def test_a_mount_is_told_by_its_line(tmp_path, monkeypatch):
    (tmp_path / "etc").mkdir()
    (tmp_path / "etc/fstab").write_text(
        "# device where kind\n/dev/sda1 / ext4 defaults 0 1\n/dev/sda2 none swap sw 0 0\n"
        "quay:/till /mnt/tide\\040gauge nfs defaults 0 0\nbroken\n"
        "UUID=5 /srv/a-b/.c ext4 nofail 0 2\n"
    )
    assert set(fstab_lines(tmp_path)) == {
        "-.mount",
        "dev-sda2.swap",
        "mnt-tide\\x20gauge.mount",
        "srv-a\\x2db-.c.mount",
    }
    monkeypatch.setattr(by_hand, "ROOT", tmp_path)
    name = "mnt-tide\\x20gauge.mount"
    assert switched_by(name) is Switcher.BY_HAND
    (step,) = set_in_words(by_hand.looked_up_by_hand([name])[name])
    assert step.startswith("to keep the start from waiting for it, add nofail to its options in")
    assert step.endswith("quay:/till /mnt/tide\\040gauge nfs defaults 0 0")


def test_a_persons_home_is_meant_also_in_a_desktops_file(whole_pc):
    (three,) = [
        line for one in everything(whole_pc) for line in one.lines if "three" in line.command
    ]
    assert three.command == f"{whole_pc}/home/three --in"


def test_the_step_is_told_of_a_bus_program_that_does_not_run_now(whole_pc, monkeypatch):
    monkeypatch.setattr(sources, "own_home", lambda: whole_pc / "home")
    commands = {line.command for line in sources.start_lines(whole_pc).values()}
    assert {"/opt/never", "/opt/tide/called --bus"} <= commands


@pytest.mark.parametrize("text", ["\"'" * 100_000, "'; & " * 40_000, " #" * 90_000, "& " * 90_000])
def test_no_line_is_long_enough_to_hold_a_recorder_up(text):
    assert list(commands_in(text)) == []
    list(commands_in(text[:4000]))


def test_what_may_not_be_read_is_said(whole_pc, monkeypatch):
    def refused(path, *_, **__):
        raise PermissionError(path)

    monkeypatch.setattr(os, "open", refused)
    looked = looked_for_the_person(whole_pc / "home", whole_pc / "home/.config", whole_pc)
    (shell,) = [one for one in looked if one.source is StartSource.OWN_SHELL_FILES]
    assert str(whole_pc / "home/.profile") in shell.refused
    assert (shell.files, shell.lines) == (0, ())
