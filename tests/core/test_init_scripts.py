"""PCs whose services an init system starts: what its scripts did, told by programs alone."""

from dataclasses import replace

import pytest

from plucky_ledger.core.boots.attribution import Owner, OwnerKind, owners_of
from plucky_ledger.core.boots.init_scripts import (
    stages_of_scripts,
    with_marks_of_scripts,
    with_script_times,
)
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.stages import StageKind
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.replay.cost import RoundReplay
from tests.helpers.runs import entry, real_analysis, real_boot, run

TIDE, LANTERN, DESK = "init:tideclock-sync", "init:lanternprint-agent", "init:desk-screen"


def script(name, program="", origin=""):
    origin = origin or f"/etc/init.d/{name}"
    return entry(
        f"init:{name}", kind=EntryKind.INIT_SCRIPT, command=program or origin, origin=origin
    )


def started(number, name, begin, end, parent=5, **more):
    command = f"/bin/sh /etc/init.d/{name} start"
    return run(
        number, 100 + number, parent, name, command, started=begin, ended=end, user=0, **more
    )


def test_a_real_boot_of_sysvinit():
    """Captured once: a script that computes for three seconds, and others that wait for it."""
    boot = real_boot("sysvinit").boot
    assert boot.context.user == "bench"
    marks = boot.marks
    assert marks[Mark.SIGN_IN_SHOWN] <= marks[Mark.SYSTEM_UP] < marks[Mark.SIGNED_IN]
    analysis = real_analysis("sysvinit")
    (kernel,) = analysis.timeline.stages
    assert (kernel.kind, kernel.end) == (StageKind.KERNEL, 0.65)
    by_entry = {one.entry_id: one for one in analysis.timeline.activities}
    assert by_entry[TIDE].up_at == by_entry[LANTERN].starting_from
    assert by_entry[TIDE].up_at - by_entry[TIDE].starting_from == pytest.approx(3.0, abs=0.3)
    assert analysis.attribution is not None
    work = analysis.attribution.work
    for name, seconds in ((TIDE, 3.0), (LANTERN, 2.0)):
        done = work[Owner(OwnerKind.ENTRY, name)].cpu_seconds[-1]
        assert done == pytest.approx(seconds, rel=0.1)
    assert analysis.attribution.explained_share(15.0)[0] > 0.93
    costs = {cost.entry_id: cost for cost in RoundReplay([analysis]).cost_of([TIDE, DESK])}
    up = costs[TIDE].system_up
    assert up.low < 3.0 < up.high
    assert up.low > 1.0


def test_a_boot_of_a_service_manager_keeps_what_it_was_told():
    recorded = real_boot("baseline-01")
    timeline = recorded.timeline
    marks = dict(recorded.boot.marks)
    assert with_marks_of_scripts(marks, timeline.entries, timeline.runs) == marks
    assert stages_of_scripts((), timeline.entries, timeline.runs) == ()
    assert with_script_times(timeline.activities, timeline.entries, timeline.runs) == (
        timeline.activities
    )


@pytest.mark.parametrize(("begins", "chained"), [((1.0, 2.0, 5.0), True), ((1.0, 1.5, 5.0), False)])
def test_scripts_that_are_run_in_turn_wait_for_each_other(begins, chained):
    names = ("a", "b", "c")
    runs = [started(i, name, begins[i], begins[i] + 1.1) for i, name in enumerate(names)]
    asked = [Activity(entry_id=f"init:{name}") for name in names]
    told = with_script_times(asked, [script(name) for name in names], runs)
    assert [one.after for one in told] == ([(), ("init:a",), ("init:b",)] if chained else [()] * 3)
    assert told[0].up_at == (2.0 if chained else 2.1)


def test_what_goes_on_in_another_program_left_its_script():
    """A script's process becomes the program that stays, and another only its program is seen of;
    a third hangs.
    """
    entries = [script("a", "/opt/a/stays"), script("b", "/opt/b/stays"), script("c")]
    became = run(1, 11, command="/opt/a/stays --on", started=2.0, user=0)
    became = replace(became, came_as="/bin/sh /etc/init.d/a start")
    runs = [became, run(2, 12, command="/opt/b/stays", started=3.0), started(3, "c", 1.0, None)]
    asked = [Activity(entry_id=one.entry_id) for one in entries]
    times = {
        one.entry_id: (one.starting_from, one.up_at)
        for one in with_script_times(asked, entries, runs)
    }
    assert times == {"init:a": (2.0, 2.0), "init:b": (3.0, 3.0), "init:c": (1.0, None)}
    owners = owners_of(tuple(runs), tuple(entries))
    assert [owners[one.run].entry_id for one in runs] == ["init:a", "init:b", "init:c"]


def test_a_program_is_known_by_its_name_where_it_hides_its_command():
    entries = (script("ssh", "/usr/sbin/sshd"), script("dbus", "/usr/bin/dbus-daemon"))
    runs = (run(1, 11, name="sshd", command="sshd: listener", user=0),)
    assert owners_of(runs, entries)[1].entry_id == "init:ssh"


def test_what_a_person_runs_is_not_the_work_of_the_sign_in_screen():
    entries = (script("desk", "/usr/sbin/desk"),)
    runs = (
        run(1, 11, name="desk", command="/usr/sbin/desk", user=0),
        run(2, 12, parent=11, name="greeter", command="/opt/greeter", user=112),
        run(3, 13, parent=11, name="session", command="/opt/session", user=1000),
        run(4, 14, parent=13, name="sudo", command="/opt/tool", user=0),
    )
    owners = owners_of(runs, entries)
    assert [owners[one.run].kind for one in runs] == [
        OwnerKind.ENTRY,
        OwnerKind.ENTRY,
        OwnerKind.SYSTEM,
        OwnerKind.SYSTEM,
    ]
    marks = with_marks_of_scripts({Mark.SIGNED_IN: 9.0}, entries, runs)
    assert marks[Mark.SIGN_IN_SHOWN] == runs[0].started


def test_services_of_a_supervisor_are_known_by_it():
    entries = (
        script("tide", "tide -f", "/etc/sv/tide/run"),
        script("rope", "rope -f", "/etc/sv/rope/run"),
    )
    runs = (
        run(1, 11, name="runsv", command="runsv tide", started=2.0, user=0),
        run(2, 12, parent=11, name="sleep", command="sleep 5", started=2.1, user=0),
        run(3, 13, name="runsv", command="runsv rope", started=2.0, user=0),
    )
    assert [one.entry_id for one in owners_of(runs, entries).values()] == [
        "init:tide",
        "init:rope",
        "init:tide",
    ]
    asked = [Activity(entry_id=one.entry_id, after=("init:tide",)) for one in entries]
    assert [one.up_at for one in with_script_times(asked, entries, runs)] == [2.0, 2.0]


@pytest.mark.parametrize(
    "command",
    [
        "/bin/sh /etc/init.d/tide start",
        "/sbin/openrc-run /etc/init.d/tide --lockfd 3 start",
        "/bin/sh /lib/init/init-d-script /etc/init.d/tide start",
        "/bin/sh /etc/rc2.d/S04tide start",
    ],
)
def test_a_script_is_known_however_it_is_run(command):
    assert unwrapped(command).program == "/etc/init.d/tide"
