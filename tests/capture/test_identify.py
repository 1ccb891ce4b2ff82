"""Which program an entry runs and who owns it; what is switched off, and when timers start."""

import os
import subprocess

import pytest

from plucky_ledger.capture.packages.dpkg import Dpkg
from plucky_ledger.capture.packages.identify import identified
from plucky_ledger.capture.packages.packages import Package, manager_of_this_pc
from plucky_ledger.capture.packages.rpm import Rpm
from plucky_ledger.capture.sampling.counters import threads_at_work
from plucky_ledger.capture.services.autostart import autostart_entries
from plucky_ledger.capture.services.inventory import rules_of
from plucky_ledger.capture.services.services import manager_lines
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.exchange.names import reason_from
from plucky_ledger.linux.bus import opened
from plucky_ledger.recording.lines import EntryLine
from plucky_ledger.wording.reasons import reason_in_words
from tests.helpers.bus import ServiceManager, private_bus, real_manager, real_units


class Shelf:
    """A package database that knows a few paths."""

    def __init__(self, **known):
        self.known = {f"/opt/{name}": package for name, package in known.items()}

    def owners(self, paths):
        return {path: self.known[path] for path in paths if path in self.known}


def line(command, **more):
    return EntryLine("x", "X", "user", "sign-in program", command=command, **more)


def identify(command, shelf=None, there=("/opt/notify",), **more):
    (found,) = identified([line(command, **more)], shelf, lambda p: p if p in there else None)
    return found


def test_the_package_of_what_it_really_runs():
    shelf = Shelf(notify=Package("foghorn", "1.1", "news pop-ups"))
    found = identify('sh -c "sleep 2; /opt/notify --tray"', shelf)
    assert (found.executable, found.package) == ("/opt/notify", "foghorn 1.1")
    assert found.description == "news pop-ups"
    own = identify("/opt/notify", shelf, description="its own words")
    assert own.description == "its own words"


def test_a_hook_that_comes_with_a_package_is_part_of_the_system():
    shelf = Shelf(hook=Package("quay", "2", ""))
    hook = EntryLine("h", "hook", "system", "hook", origin="/opt/hook", command="/opt/hook eth0")
    own = EntryLine("o", "own", "system", "hook", origin="/opt/own", command="/opt/own")
    found = identified([hook, own], shelf, lambda path: path)
    assert [line.part_of_system for line in found] == [True, False]
    assert found[0].package == "quay 2"


@pytest.mark.parametrize(
    ("command", "left_behind"),
    [
        ("/opt/gone/run --x", True),
        ("sh -c 'exec /opt/gone/run'", True),
        ("bare-name", False),
        ("", False),
        ("/opt/notify", False),
        ("/opt/%i/run", False),
    ],
)
def test_only_a_full_path_can_be_known_to_be_gone(command, left_behind):
    assert identify(command).left_behind is left_behind


@pytest.mark.skipif(manager_of_this_pc() is None, reason="this PC has no known package database")
def test_this_pcs_own_database_knows_its_own_shell():
    shell = os.path.realpath("/bin/sh")
    found = manager_of_this_pc().owners([shell, "/opt/nobody/owns/this"])
    assert list(found) == [shell]
    assert found[shell].name
    assert found[shell].description


def test_the_rpm_family_is_asked_path_by_path(monkeypatch):
    asked = []

    def answer(command, **_):
        asked.append(command[-1])
        text = b"foghorn\t1.1-2\tnews pop-ups\n" if "foghorn" in command[-1] else b"not owned\n"
        return subprocess.CompletedProcess(command, 0, text)

    monkeypatch.setattr(subprocess, "run", answer)
    found = Rpm().owners(["/opt/foghorn/notify", "/opt/nobody"])
    assert found == {"/opt/foghorn/notify": Package("foghorn", "1.1-2", "news pop-ups")}
    assert asked == ["/opt/foghorn/notify", "/opt/nobody"]


def test_a_database_that_does_not_answer_is_an_ordinary_answer(monkeypatch):
    def fail(*_, **__):
        raise subprocess.TimeoutExpired("dpkg-query", 1)

    monkeypatch.setattr(subprocess, "run", fail)
    assert Dpkg().owners(["/bin/sh"]) == {}


@pytest.mark.parametrize(
    ("timer", "words"),
    [
        ({"TimersMonotonic": [("OnBootUSec", 900_000_000, 0)]}, "15 min after the kernel started"),
        (
            {"TimersCalendar": [("OnCalendar", "*-*-* 06:00:00", 0)]},
            "runs *-*-* 06:00:00",
        ),
        (
            {"TimersMonotonic": [("OnUnitActiveUSec", 86_400_000_000, 0), ("OnOdd", 1_500_000, 0)]},
            "1 d after it ran last",
        ),
        ({}, ""),
    ],
)
def test_schedules_in_words(timer, words):
    said = (reason_in_words(reason_from(rule)) for rule in rules_of(timer))
    assert " and ".join(said) == words


def test_services_that_are_switched_off_are_in_the_inventory():
    with private_bus() as address:
        manager = ServiceManager(address, real_units("system"), real_manager())
        with opened(address) as bus:
            lines = list(manager_lines(bus, "system"))
        manager.close()
    off = {one.entry: one for one in lines if isinstance(one, EntryLine) and one.off}
    assert off["old-modem.service"].off.code == ReasonCode.SWITCHED_OFF
    assert off["old-modem.service"].part_of_system
    assert off["pier-report.service"].off.code == ReasonCode.MASKED
    assert "getty@.service" not in off
    assert "harborledger-import.service" not in off


def test_threads_at_work_are_read_without_the_reader():
    stat = b"cpu 1 2 3 4\nprocesses 99\nprocs_running 5\nprocs_blocked 2\nsoftirq 1\n"
    assert threads_at_work(stat) == (4, 2)
    assert threads_at_work(b"cpu 1 2 3\n") == (0, 0)


HOSTILE = {
    "huge.desktop": b"[Desktop Entry]\nName=x\nExec=" + b"a" * 70_000,
    "binary.desktop": bytes(range(256)) * 4,
    "latin.desktop": "[Desktop Entry]\nName=Caf\xe9 \u2603\nExec=/opt/x".encode("utf-16"),
    "escapes.desktop": b'[Desktop Entry]\nName=E\nExec=sh -c "\\$(reboot) ; /opt/e"\n',
    "empty.desktop": b"",
    "twice.desktop": b"[Desktop Entry]\nExec=/opt/a\nExec=/opt/b\n[Desktop Entry]\nExec=/opt/c\n",
}


def test_hostile_entries_and_a_thousand_others_are_listed_with_a_reason(tmp_path):
    for name, content in HOSTILE.items():
        (tmp_path / name).write_bytes(content)
    (tmp_path / "loop.desktop").symlink_to(tmp_path / "loop.desktop")
    os.mkfifo(tmp_path / "pipe.desktop")
    for number in range(1000):
        text = f"[Desktop Entry]\nName=Entry {number}\nExec=/opt/gone-{number}/run\n"
        (tmp_path / f"many-{number:04d}.desktop").write_text(text)
    found = {one.entry: one for one in identified(autostart_entries([tmp_path], []), None)}
    assert len(found) == 1000 + len(HOSTILE) + 2
    for name in ("huge.desktop", "binary.desktop", "loop.desktop", "pipe.desktop", "empty.desktop"):
        assert found[name].off, name
    assert found["many-0999.desktop"].left_behind
    assert found["escapes.desktop"].left_behind
    assert len(found["huge.desktop"].command) <= 1024
