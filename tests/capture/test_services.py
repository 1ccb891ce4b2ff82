"""The service manager: on a bus of our own, and as a real one described a real boot."""

import os
import re
import time
from contextlib import closing, contextmanager

import pytest

from plucky_ledger.capture.sampling.pressure import with_pressure
from plucky_ledger.capture.services import services
from plucky_ledger.capture.services.services import (
    bus_of_the_person,
    lines_of_the_system,
    lines_of_the_user,
    manager_lines,
    wait_until_up,
)
from plucky_ledger.capture.services.units import passphrase_lines, unit_lines
from plucky_ledger.core.boots.chain import chain_to
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.pc.arming import OWN_UNITS
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.exchange.names import reason_from
from plucky_ledger.linux.bus import NoAnswer, opened
from plucky_ledger.recording.lines import ActivityLine, EntryLine, MarkLine, NoteLine, StageLine
from plucky_ledger.wording.reasons import reason_in_words
from tests.helpers.bus import ServiceManager, SignedIn, private_bus, real_manager, real_units


@contextmanager
def no_answer(pattern):
    """Nobody answers, for a reason in words that a pattern is found in."""
    with pytest.raises(NoAnswer) as caught:
        yield
    assert re.search(pattern, reason_in_words(caught.value.reason))


@pytest.fixture
def address():
    with private_bus() as found:
        yield found


@pytest.fixture
def manager(address):
    """Starts a stand-in service manager on the private bus."""
    started = []

    def start(units=None, **behaviour):
        one = ServiceManager(address, units or real_units("system"), real_manager(), **behaviour)
        started.append(one)
        return one

    yield start
    for one in started:
        one.close()


def plain(units):
    return [{name: value["data"] for name, value in unit["properties"].items()} for unit in units]


def services_of_a_real_pc():
    return [unit for unit in real_units("system") if unit["path"].endswith("service")]


def by_entry(lines, kind):
    return {line.entry: line for line in lines if isinstance(line, kind)}


def test_what_a_real_manager_said_over_a_real_bus(address, manager):
    manager()
    with opened(address) as bus:
        lines = list(manager_lines(bus, "system"))
    marks = {line.name: line.seconds for line in lines if isinstance(line, MarkLine)}
    stages = {line.name: (line.start, line.end) for line in lines if isinstance(line, StageLine)}
    assert marks["system up"] == pytest.approx(55.894, abs=0.001)
    assert stages == {"kernel": (0.0, pytest.approx(5.667, abs=0.001))}
    activity = by_entry(lines, ActivityLine)["harborledger-import.service"]
    assert activity.starting_from == pytest.approx(41.553, abs=0.001)
    assert activity.up_at == pytest.approx(55.693, abs=0.001)
    assert activity.cpu_seconds == pytest.approx(12.03, abs=0.01)
    assert "tideclock-sync.service" in activity.after
    # Only through a target: network-online stands for whoever brings the network up.
    assert "NetworkManager-wait-online.service" in activity.after
    entry = by_entry(lines, EntryLine)["harborledger-import.service"]
    assert entry.command == "/opt/tidewater/bin/harborledger-import"
    assert not entry.part_of_system
    assert by_entry(lines, EntryLine)["systemd-udevd.service"].part_of_system


def test_the_thread_of_a_real_boot_names_who_held_it_up():
    """The last service of that boot waited for a clock that waited for the network."""
    lines = unit_lines(plain(real_units("system")), {}, "system")
    recorded = [
        Activity(
            entry_id=line.entry,
            waiting_from=line.waiting_from,
            starting_from=line.starting_from,
            up_at=line.up_at,
            after=line.after,
        )
        for line in lines
        if isinstance(line, ActivityLine)
    ]
    thread = [link.entry_id for link in chain_to(55.9, tuple(recorded))]
    assert thread[-3:] == [
        "NetworkManager-wait-online.service",
        "tideclock-sync.service",
        "harborledger-import.service",
    ]


def test_four_hundred_units_take_a_few_waits_not_hundreds(address, manager):
    unit = real_units("system")[0]
    units = [
        {
            "path": f"/org/freedesktop/systemd1/unit/u{i}",
            "properties": {**unit["properties"], "Id": {"type": "s", "data": f"u{i}.service"}},
        }
        for i in range(400)
    ]
    asked = manager(units)
    with opened(address, seconds=30.0) as bus:
        lines = list(manager_lines(bus, "system"))
        assert bus.round_trips <= 16
    started = [e for e in by_entry(lines, EntryLine).values() if e.off is None]
    assert len(started) == 400
    assert asked.asked == 803


def test_sign_in_programs_of_the_user_manager_keep_their_desktop_entrys_name():
    lines = unit_lines(plain(real_units("user")), {}, "user")
    entries = by_entry(lines, EntryLine)
    assert entries["logbook-tray.desktop"].starts == "sign-in program"
    assert entries["logbook-tray.desktop"].origin == "/etc/xdg/autostart/logbook-tray.desktop"
    assert entries["user:pipewire.service"].starts == "user service"
    assert "dbus.service" not in entries


def test_a_unit_that_vanishes_while_it_is_asked_is_left_out(address, manager):
    answering = manager()
    path = real_units("system")[0]["path"]
    with opened(address) as bus:
        found = bus.properties_of_all(
            services.SERVICE,
            [path, "/org/freedesktop/systemd1/unit/gone"],
            (services.UNIT,),
            services.TYPES,
        )
    assert found[0]["Id"]
    assert found[1] == {}
    assert answering.asked == 2


def test_a_manager_that_hangs_is_given_up_on(address, manager):
    manager(answers=0)
    with opened(address, seconds=0.3) as bus, no_answer("time was up|within"):
        list(manager_lines(bus, "system"))


def test_a_slow_manager_is_waited_for_as_long_as_it_goes_on_answering(address, manager):
    """All answers together take several times the longest silence."""
    slow = manager(services_of_a_real_pc(), delay=0.05)
    with opened(address, seconds=0.6) as bus:
        lines = list(manager_lines(bus, "system"))
    assert slow.asked * 0.05 > 2 * 0.6
    assert not [line for line in lines if isinstance(line, NoteLine)]
    assert len(by_entry(lines, ActivityLine)) > 10


def test_a_manager_that_falls_silent_keeps_what_it_told(address, manager):
    """The marks, the first services, and a note that says how many are missing."""
    known = services_of_a_real_pc()
    manager(known, answers=22)
    with opened(address, seconds=0.3) as bus:
        lines = list(manager_lines(bus, "system"))
    assert "system up" in {line.name for line in lines if isinstance(line, MarkLine)}
    assert 0 < len(by_entry(lines, ActivityLine)) <= 10
    short = next(line.said for line in lines if isinstance(line, NoteLine))
    assert short.code == ReasonCode.SERVICES_MISSING
    assert f"What {len(known) - 10} of {len(known)} services did" in reason_in_words(
        reason_from(short)
    )


def test_start_up_is_waited_for_until_the_manager_says_it_is_over(address, manager, monkeypatch):
    monkeypatch.setattr(services, "LOOK_AGAIN_SECONDS", 0.05)
    assert not wait_until_up(address, time.monotonic() + 0.2)
    starting = manager()
    starting._manager["FinishTimestampMonotonic"]["data"] = 0
    assert not wait_until_up(address, time.monotonic() + 0.5)
    starting._manager["FinishTimestampMonotonic"]["data"] = 55_894_000
    assert wait_until_up(address, time.monotonic() + 5.0)


@pytest.mark.parametrize(
    ("told", "up", "ended"),
    [
        # A oneshot that has ended: done when it was inactive again.
        ({"Type": "oneshot", "Result": "success", "InactiveEnter": 9}, 9, 9),
        ({"Type": "oneshot", "Result": "exit-code", "InactiveEnter": 9}, None, 9),
        # One that stays active, and one that is still at it.
        ({"Type": "oneshot", "Result": "success", "ActiveEnter": 7}, 7, None),
        ({"Type": "oneshot", "Result": "success", "InactiveEnter": 2}, None, None),
        # One that runs, one that ran, one that never came up, one on its second run.
        ({"Type": "notify", "ActiveEnter": 7}, 7, None),
        ({"Type": "notify", "ActiveEnter": 7, "ActiveExit": 8, "InactiveEnter": 9}, 7, 8),
        ({"Type": "notify", "Result": "timeout", "InactiveEnter": 9}, None, 9),
        ({"Type": "simple", "ActiveEnter": 7, "ActiveExit": 3, "InactiveEnter": 3}, 7, None),
    ],
)
def test_when_a_service_was_up_and_when_it_ended(told, up, ended):
    instants = {"InactiveExit", "ActiveEnter", "ActiveExit", "InactiveEnter"}
    unit = {"Id": "import.service", "InactiveExitTimestampMonotonic": 4_000_000}
    for name, value in told.items():
        at = {f"{name}TimestampMonotonic": value * 1_000_000} if name in instants else {name: value}
        unit |= at
    activity = by_entry(unit_lines([unit], {}, "system"), ActivityLine)["import.service"]
    assert (activity.starting_from, activity.up_at, activity.ended_at) == (4, up, ended)


def test_how_long_a_service_was_held_up_is_told_by_its_control_group(tmp_path):
    """Where the kernel keeps it; what has ended has no group any more."""
    group = tmp_path / "system.slice/till.service"
    group.mkdir(parents=True)
    (group / "cpu.pressure").write_text(
        "some avg10=0.00 avg60=1.20 avg300=0.40 total=2125000\nfull avg10=0.00 total=9\n"
    )
    (group / "io.pressure").write_text("nonsense\n")
    lines = [
        EntryLine(
            "till.service", "Till", "system", "system service", group="/system.slice/till.service"
        ),
        EntryLine("gone.service", "Gone", "system", "system service", group=""),
        ActivityLine("till.service", cpu_seconds=3.0),
        ActivityLine("gone.service"),
    ]
    told = by_entry(with_pressure(lines, tmp_path), ActivityLine)
    assert told["till.service"].cpu_pressure_seconds == 2.125
    assert told["till.service"].io_pressure_seconds is None
    assert told["till.service"].cpu_seconds == 3.0
    assert told["gone.service"].cpu_pressure_seconds is None


def test_no_bus_is_an_answer_with_a_reason(monkeypatch, tmp_path):
    with no_answer("no message bus"), opened(f"unix:path={tmp_path}/none"):
        pass
    monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", f"unix:path={tmp_path}/none")
    monkeypatch.delenv("DBUS_SESSION_BUS_ADDRESS", raising=False)
    notes = [
        reason_in_words(reason_from(line.said))
        for line in (*lines_of_the_system(), *lines_of_the_user())
        if isinstance(line, NoteLine)
    ]
    assert any("no message bus is running" in note for note in notes)


def test_a_wanted_unit_whose_conditions_were_not_met_is_listed_and_did_nothing():
    asked = {"WantedBy": ["multi-user.target"], "ConditionTimestampMonotonic": 9_000_000}
    units = [
        {"Id": "skipped.service", **asked, "ConditionResult": False},
        {"Id": "merely-loaded.service", "WantedBy": [], "ConditionResult": False},
    ]
    (entry,) = unit_lines(units, {}, "system")
    assert isinstance(entry, EntryLine)
    assert (entry.entry, entry.off.code) == ("skipped.service", ReasonCode.CONDITIONS_NOT_MET)


def test_the_longest_wait_for_a_passphrase_is_known_by_who_put_the_question():
    """Seconds of a volume's unit; a key file opens one without anybody being asked."""

    def unit(name, begin, up=None, cpu=0.0):
        at = {"InactiveExitTimestampMonotonic": int(begin * 1e6)}
        if up is not None:
            at |= {"ActiveEnterTimestampMonotonic": int(up * 1e6), "CPUUsageNSec": int(cpu * 1e9)}
        return {"Id": name, **at}

    root = unit("systemd-cryptsetup@root.service", 2.0, 31.5, 1.5)
    data = unit("systemd-cryptsetup@data.service", 32.0, 34.0, 1.5)
    agent = unit("systemd-ask-password-console.service", 2.4)
    lines = passphrase_lines([data, agent, root, {"Id": 7}, {}])
    assert [(line.name, line.seconds) for line in lines] == [
        ("passphrase asked", 2.4),
        ("passphrase given", 30.0),
    ]
    assert passphrase_lines([root, data]) == []
    assert passphrase_lines([data, agent]) == []


@pytest.mark.parametrize(
    ("command", "of_the_system"),
    [
        (["/etc/init.d/quay-printer", "start"], False),
        (["/etc/rc.local", "start"], False),
        (["/bin/sh", "-c", "sleep 2; exec /opt/quay/run"], False),
        (["/usr/lib/systemd/systemd-udevd"], True),
    ],
)
def test_what_runs_a_script_of_the_pcs_own_is_no_part_of_the_system(command, of_the_system):
    """Whoever wrote the unit: a generator, or the distribution for ``rc.local``."""
    unit = {
        "Id": "quay.service",
        "FragmentPath": "/run/systemd/generator.late/quay.service",
        "SourcePath": "/etc/init.d/quay-printer",
        "InactiveExitTimestampMonotonic": 9_000_000,
        "ExecStart": ((command[0], tuple(command), False, 0, 0, 0, 0, 0, 0, 0),),
    }
    entry, _activity = unit_lines([unit], {}, "system")
    assert entry.part_of_system is of_the_system
    assert entry.origin == "/etc/init.d/quay-printer"


def test_what_the_system_only_runs_has_the_script_as_its_origin():
    unit = {
        "Id": "rc-local.service",
        "FragmentPath": "/lib/systemd/system/rc-local.service",
        "InactiveExitTimestampMonotonic": 9_000_000,
        "ExecStart": (("", ("/etc/rc.local", "start")),),
    }
    entry, _activity = unit_lines([unit], {}, "system")
    assert (entry.origin, entry.part_of_system) == ("/etc/rc.local", False)


@pytest.mark.parametrize(("drop_ins", "of_the_system"), [(("/etc/x.conf",), False), ((), True)])
def test_commands_beside_the_main_one_are_told_and_who_added_them(drop_ins, of_the_system):
    """What somebody added to a unit of the system is not folded away with it."""
    unit = {
        "Id": "cron.service",
        "FragmentPath": "/lib/systemd/system/cron.service",
        "DropInPaths": drop_ins,
        "InactiveExitTimestampMonotonic": 9_000_000,
        "ExecStart": (("", ("/usr/sbin/cron", "-f")), ("", ("/usr/sbin/more",))),
        "ExecStartPre": (("", ("/usr/local/bin/before", "a b")),),
        "ExecStartPost": (("", ("/usr/bin/after",)),),
    }
    entry, _activity = unit_lines([unit], {}, "system")
    assert entry.command == "/usr/sbin/cron -f"
    assert entry.beside == ("/usr/sbin/more", "/usr/local/bin/before 'a b'", "/usr/bin/after")
    assert entry.drop_ins == drop_ins
    assert entry.part_of_system is of_the_system


@pytest.mark.parametrize("name", sorted(OWN_UNITS))
def test_what_starts_our_own_is_no_entry_of_the_pc(name):
    unit = {"Id": name, "InactiveExitTimestampMonotonic": 9_000_000}
    assert unit_lines([unit], {}, "user") == []


def session(number, user, kind="user", seat="", at=30.0):
    name = {1000: "harbour", 1001: "warden"}.get(user, "account")
    told = {"id": str(number), "user": user, "name": name, "class": kind}
    return {**told, "seat": seat, "at": at}


GREETER = session(1, 120, "greeter", "seat0", 8.0)


@pytest.mark.parametrize(
    ("sessions", "person", "for_sure"),
    [
        ([], None, None),
        ([GREETER], None, None),
        ([GREETER, session(2, 1001, seat="seat0")], 1001, 1001),
        ([session(2, 1000, at=9.0), session(3, 1001, seat="seat0", at=40.0)], 1001, 1001),
        ([session(2, 1000), session(3, 1001, at=40.0)], 1000, None),
        ([session(2, 1000, "manager"), session(3, 1001, at=40.0)], 1001, None),
        ([session(2, 120, "user", "seat0"), session(3, 1001, at=40.0)], 1001, None),
        ([session(2, 1003, seat="seat0"), session(3, 1001)], 1003, 1003),
    ],
)
def test_the_person_is_who_signed_in_whoever_else_has_a_bus(
    tmp_path, monkeypatch, address, sessions, person, for_sure
):
    """A sign-in screen, an account that lingers, a system account: all have buses, older ones."""
    monkeypatch.setattr(services, "is_administrator", lambda: True)
    for user in (120, 1000, 1001, 65534):
        (tmp_path / str(user)).mkdir()
        (tmp_path / str(user) / "bus").write_text("")
        os.utime(tmp_path / str(user) / "bus", (user, user))
    (tmp_path / "lost+found").mkdir()
    bus = f"unix:path={tmp_path}/{person}/bus"
    with closing(SignedIn(address, sessions)):
        found = bus_of_the_person({}, tmp_path, address)
        assert found == (None if person is None else (person, bus))
        sure = bus_of_the_person({}, tmp_path, address, for_sure=True)
        assert (sure[0] if sure else None) == for_sure
        with opened(address) as connection:
            marks = [
                one for one in services._session_lines(connection) if isinstance(one, MarkLine)
            ]
        people = [one for one in sessions if one["class"] == "user" and one["user"] >= 1000]
        assert len(marks) == min(1, len(people))


def test_where_nobody_can_sign_in_at_a_screen_the_first_is_the_person_at_once(
    tmp_path, monkeypatch, address
):
    monkeypatch.setattr(services, "is_administrator", lambda: True)
    (tmp_path / "1000").mkdir()
    (tmp_path / "1000" / "bus").write_text("")
    with closing(SignedIn(address, [session(2, 1000)], graphical=False)):
        assert bus_of_the_person({}, tmp_path, address, for_sure=True)[0] == 1000
        assert bus_of_the_person({"DBUS_SESSION_BUS_ADDRESS": "x"}, tmp_path, address) is None
        monkeypatch.setattr(services, "is_administrator", lambda: False)
        assert bus_of_the_person({}, tmp_path, address) is None


def test_without_a_sign_in_manager_it_is_the_person_whose_bus_is_the_oldest(tmp_path, monkeypatch):
    monkeypatch.setattr(services, "is_administrator", lambda: True)
    nowhere = f"unix:path={tmp_path}/none"
    assert bus_of_the_person({}, tmp_path, nowhere) is None
    for user in ("1001", "1000", "120", "lost+found"):
        (tmp_path / user).mkdir()
        (tmp_path / user / "bus").write_text("")
    for age, user in enumerate(("120", "1000")):
        os.utime(tmp_path / user / "bus", (age, age))
    assert bus_of_the_person({}, tmp_path, nowhere) == (1000, f"unix:path={tmp_path}/1000/bus")


@pytest.mark.parametrize(
    "broken",
    [
        {},
        {"Id": "x.service"},
        {"Id": "x.service", "InactiveExitTimestampMonotonic": 2**64 - 1},
        {"Id": "x.service", "InactiveExitTimestampMonotonic": "soon", "Result": "exit-code"},
        {"Id": "x" * 9000 + ".service", "InactiveExitTimestampMonotonic": 5, "ExecStart": []},
        {
            "Id": "x.service",
            "InactiveExitTimestampMonotonic": 9_000_000,
            "ActiveEnterTimestampMonotonic": 5_000_000,
            "MemoryCurrent": 2**64 - 1,
        },
    ],
)
def test_odd_properties_never_break_a_recording(broken):
    for line in unit_lines([broken], {}, "system"):
        if isinstance(line, ActivityLine):
            assert line.up_at is None or line.up_at >= line.starting_from
            assert line.memory_bytes is None
        if isinstance(line, EntryLine):
            assert len(line.entry) <= 1024
