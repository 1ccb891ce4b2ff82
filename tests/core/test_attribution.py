"""Every program run lands somewhere, and all parts together are the machine's counters."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.boots.attribution import (
    ASIDE,
    SYSTEM,
    UNEXPLAINED,
    Owner,
    OwnerKind,
    attribute,
    owners_of,
    run_work,
)
from plucky_ledger.core.boots.grid import ReadingsGrid
from plucky_ledger.core.boots.init_scripts import with_marks_of_scripts
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.memory import Memory
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.boots.usage import use_by_owner
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.hints import hints_of
from plucky_ledger.core.entries.kinds import (
    Switcher,
    another_person,
    id_of_another,
    switched_by,
)
from plucky_ledger.core.job.inventory import inventory_of
from plucky_ledger.core.pc.facts import Facts
from tests.helpers.runs import entry, real_boot, run, samples

ADDED = (
    "harborledger-import.service",
    "gullwatch-indexer.service",
    "lanternprint-agent.service",
    "foghorn-calibrate.service",
    "tideclock-sync.service",
)
"""The entries that were added to the captured PC."""


def of(entry_id):
    return Owner(OwnerKind.ENTRY, entry_id)


def owner(one, *entries, others=(), aside=frozenset()):
    """Whose a run is."""
    return owners_of((*others, one), entries, aside)[one.run]


SERVICE = entry("till.service", "/opt/till", EntryKind.SYSTEM_SERVICE, "/system.slice/till.service")
NOTIFY = entry("foghorn.desktop", 'sh -c "sleep 3; /opt/foghorn/notify --tray"')


@pytest.mark.parametrize(
    "group",
    [
        "/system.slice/till.service",
        "/system.slice/till.service/worker-3",
        "/system.slice/till.service/a/b",
    ],
)
def test_the_control_group_decides_first(group):
    helper = run(5, 50, name="sh", command="/opt/foghorn/notify --tray", group=group)
    assert owner(helper, SERVICE, NOTIFY) == of("till.service")


@pytest.mark.parametrize(
    "component",
    ["app-foghorn@autostart.service", "app-foghorn-1234.scope", "app-foghorn.scope"],
)
def test_application_units_of_a_session_name_their_entry(component):
    group = f"/user.slice/user-1000.slice/user@1000.service/app.slice/{component}"
    assert owner(run(1, 9, name="anything", group=group), NOTIFY) == of("foghorn.desktop")


def test_the_users_manager_is_not_charged_with_all_the_user_runs():
    manager = entry(
        "user@1000.service",
        "/lib/systemd/systemd --user",
        EntryKind.SYSTEM_SERVICE,
        "/user.slice/user-1000.slice/user@1000.service",
    )
    inside = f"{manager.group}/app.slice/something.scope"
    assert owner(run(1, 9, group=inside), manager) == SYSTEM
    assert owner(run(1, 9, group=f"{manager.group}/init.scope"), manager) == of("user@1000.service")


def test_a_service_beside_the_users_manager_has_what_it_started():
    group = "/user.slice/user-1000.slice/user@1000.service/foghorn.service"
    service = entry("foghorn.service", "/opt/foghorn", EntryKind.SYSTEM_SERVICE, group)
    assert owner(run(1, 9, group=f"{group}/payload"), service) == of("foghorn.service")


def test_within_a_session_the_command_line_decides_then_the_parent():
    session = "/user.slice/user-1000.slice/session-2.scope"
    shell = entry("desktop.service", "/usr/bin/desktop", "session")
    parent = run(1, 20, name="desktop", command="/usr/bin/desktop", group=session)
    named = run(2, 30, 20, "notify", "/opt/foghorn/notify --tray", session, started=2.0)
    child = run(3, 40, 30, "worker", "/opt/foghorn/worker", session, started=3.0)
    owners = owners_of((parent, named, child), (shell, NOTIFY))
    assert owners == {1: of("desktop.service"), 2: of("foghorn.desktop"), 3: of("foghorn.desktop")}


def test_a_launcher_that_ends_leaves_its_child_to_the_same_entry():
    """It starts another program and exits; the child's parent is then the first process."""
    launcher = run(1, 20, 1, "notify", "/opt/foghorn/notify --tray", ended=2.0)
    child = run(2, 30, 20, "daemon", "/opt/foghorn/daemon", started=1.5)
    later = run(3, 40, 30, "daemon", "/opt/foghorn/daemon --again", started=6.0)
    owners = owners_of((launcher, child, later), (NOTIFY,))
    assert set(owners.values()) == {of("foghorn.desktop")}


def test_a_reused_pid_is_another_run():
    old = run(1, 20, 1, "notify", "/opt/foghorn/notify --tray", ended=5.0)
    new = run(2, 20, 1, "other", "/usr/bin/other", started=8.0)
    child = run(3, 30, 20, "third", "/usr/bin/third", started=9.0)
    assert owners_of((old, new, child), (NOTIFY,))[3] == SYSTEM


def test_two_entries_as_likely_are_not_guessed_between():
    twins = entry("a.desktop", "/opt/twin/run"), entry("b.desktop", "/opt/twin/run")
    assert owner(run(1, 9, name="run", command="/opt/twin/run"), *twins) == SYSTEM


def test_what_is_set_aside_takes_along_what_it_starts():
    help_session = run(1, 9, name="lookover", command="/opt/lookover/serve")
    below = run(2, 10, 9, "encoder", "/opt/lookover/encoder", started=1.0)
    recorder = run(3, 11, own=True)
    owners = owners_of((help_session, below, recorder), (), frozenset({"lookover"}))
    assert set(owners.values()) == {ASIDE}


runs_of_any_kind = st.lists(
    st.tuples(
        st.integers(1, 6),
        st.floats(0, 8),
        st.floats(0.1, 20),
        st.floats(0, 5),
        st.booleans(),
        st.sampled_from(["/system.slice/till.service", "", "/user.slice/session-1.scope"]),
    ),
    min_size=1,
    max_size=8,
)


@given(runs_of_any_kind, st.floats(0, 60), st.floats(0, 1e9))
def test_the_parts_sum_to_the_machine_whatever_the_programs_claim(made, total, read):
    runs = tuple(
        run(
            i,
            10 + i,
            9 + parent,
            f"p{i}",
            group=group,
            started=begun,
            ended=min(begun + 1.5, 9.9) if ends else None,
            cpu=((begun + 0.5, used / 2), (begun + 1.2, used)),
            children=inherited,
            read=used * 1e6,
        )
        for i, (parent, begun, used, inherited, ends, group) in enumerate(made)
    )
    found = attribute(Timeline(samples=samples(total, read=read), runs=runs, entries=(SERVICE,)))
    cpu = sum(work.cpu_seconds for work in found.work.values())
    moved = sum(work.bytes_read for work in found.work.values())
    assert np.allclose(cpu, np.linspace(0, total, 11), atol=1e-6)
    assert np.allclose(moved, np.linspace(0, read, 11), rtol=1e-9, atol=1e-3)
    for owner_, work in found.work.items():
        if owner_ != UNEXPLAINED:
            assert (work.cpu_seconds >= -1e-9).all()
    # What lies within two spans is what lies in both together.
    parts = [use_by_owner(found, runs, *span) for span in ((0.0, 5.0), (5.0, 10.0), (0.0, 10.0))]
    for owner_ in found.work:
        early, late, whole = (part[owner_].cpu_seconds for part in parts)
        assert early + late == pytest.approx(whole, abs=1e-6)


def test_what_another_person_starts_is_charged_by_its_group_alone():
    """The same program in both their sessions, one of them without a unit of its own."""
    theirs = id_of_another("warden", "rope.desktop")
    group = "/user.slice/user-1001.slice/user@1001.service/app.slice/app-rope@autostart.service"
    entries = (
        entry("rope.desktop", "/opt/rope --tray"),
        entry(theirs, "/opt/rope --tray", group=group),
    )
    runs = (
        run(1, 11, name="rope", command="/opt/rope --tray", group=group),
        run(2, 12, name="rope", command="/opt/rope --tray", group="/user.slice/session-1.scope"),
    )
    owners = owners_of(runs, entries)
    assert [owners[number].entry_id for number in (1, 2)] == [theirs, "rope.desktop"]
    assert not hints_of(entries, ())
    assert set(inventory_of(entries, Facts()).entries) == {"rope.desktop"}
    assert switched_by(theirs) is Switcher.OTHER_PEOPLE
    assert switched_by(id_of_another("warden", "file:.profile:1")) is Switcher.BY_HAND
    assert another_person(theirs) == "warden"


def test_children_nobody_saw_count_for_who_inherited_them_those_seen_for_themselves():
    parent = run(0, 20, 1, "make", cpu=((1.0, 1.0), (6.0, 2.0)), children=(0.0, 5.0))
    child = run(1, 30, 20, "seen", cpu=((2.0, 3.0),), started=1.5, ended=4.0)
    runs, taken = (parent, child), samples(20.0)
    cpu, _ = run_work(runs, taken, ReadingsGrid(runs, taken.seconds))
    assert cpu[:, -1] == pytest.approx([2.0 + (5.0 - 3.0), 3.0])


def test_what_was_handed_on_at_once_counts_for_who_did_it_alone():
    """A script, what ran it and its program are gone in the same sample: the one behind them all
    inherits what the program used, and has not used it.
    """
    runs = (
        run(0, 20, 1, "stage", cpu=((1.0, 0.5), (6.0, 0.5)), children=(0.0, 3.0)),
        run(1, 30, 20, "runner", started=1.2, ended=4.0, cpu=((2.0, 0.0),)),
        run(2, 40, 30, "script", started=1.3, ended=4.0, cpu=((2.0, 0.0),)),
        run(3, 50, 40, "works", started=1.4, ended=4.0, cpu=((2.0, 1.0), (3.9, 3.0))),
    )
    taken = samples(20.0)
    cpu, _ = run_work(runs, taken, ReadingsGrid(runs, taken.seconds))
    assert cpu[:, -1] == pytest.approx([0.5, 0.0, 0.0, 3.0])


def test_runs_that_call_each_other_their_parent_end_the_reckoning_all_the_same():
    """As a made-up recording may say."""
    runs = (
        run(0, 20, 30, "one", started=1.0, ended=4.0, cpu=((2.0, 1.0),)),
        run(1, 30, 20, "two", started=1.0, ended=4.0, cpu=((2.0, 2.0),)),
        run(2, 40, 40, "own", started=1.0, ended=4.0, cpu=((2.0, 3.0),)),
    )
    taken = samples(20.0)
    cpu, _ = run_work(runs, taken, ReadingsGrid(runs, taken.seconds))
    assert cpu[:, -1] == pytest.approx([1.0, 2.0, 3.0])
    scripts = (entry("init:x", "/etc/init.d/x", kind=EntryKind.INIT_SCRIPT),)
    assert Mark.SIGN_IN_SHOWN not in with_marks_of_scripts({Mark.SIGNED_IN: 9.0}, scripts, runs)


@pytest.mark.parametrize("name", ["baseline-01", "baseline-02", "without-import-01"])
def test_real_boots_are_explained_and_agree_with_the_managers_own_accounting(name):
    """The manager counts the CPU time of every service by itself."""
    timeline = real_boot(name).timeline
    found = attribute(timeline)
    assert min(found.explained_share(timeline.samples.end)) >= 0.98
    counted = {a.entry_id: a.cpu_seconds for a in timeline.activities if a.cpu_seconds}
    ours = {owner_.entry_id: float(work.cpu_seconds[-1]) for owner_, work in found.work.items()}
    compared = [name for name in ADDED if name in counted]
    assert len(compared) >= 4
    for entry_id in compared:
        assert ours[entry_id] == pytest.approx(counted[entry_id], rel=0.1, abs=0.3), entry_id


def test_a_real_session_is_told_apart_from_its_manager():
    timeline = real_boot("baseline-01").timeline
    owners = attribute(timeline).owners
    whose = {run.name: owners[run.run].entry_id for run in timeline.runs}
    assert whose["brassbell-notif"] == "brassbell-notifier.desktop"
    assert whose["logbook-tray"] == "logbook-tray.desktop"
    assert whose["harborledger-im"] == "harborledger-import.service"
    assert all(owners[r.run] == SYSTEM for r in timeline.runs if r.parent_pid == 2)


def test_two_thousand_forks_stay_with_their_entry():
    forks = tuple(
        run(
            i,
            100 + i,
            99 if i else 1,
            "fork",
            group="/system.slice/till.service",
            started=i / 1000,
            ended=i / 1000 + 0.3,
        )
        for i in range(2000)
    )
    found = attribute(Timeline(samples=samples(4000.0), runs=forks, entries=(SERVICE,)))
    uses = use_by_owner(found, forks, 0.0, 10.0)
    assert uses[of("till.service")].cpu_seconds == pytest.approx(2000.0, rel=0.01)
    assert uses[of("till.service")].processes == 0


def memory_at_end(*runs):
    memory = Memory(runs)
    return [memory.of(each, 9.0) for each in runs]


def test_what_a_child_was_forked_with_is_its_own_only_as_far_as_it_is_written():
    """Where the proportional share not readable: so much, and never more than is resident."""
    at = ((1.0, 1.0), (5.0, 1.0))
    agent = run(1, 10, name="agent", memory=120e6, cpu=at)
    forked = run(2, 11, parent=10, name="agent", started=2.0, memory=118e6, cpu=at)
    writing = replace(forked, run=3, faulted_bytes=np.array([1e6, 30e6]))
    all_of_it = replace(forked, run=4, faulted_bytes=np.array([1e6, 900e6]))
    grown = replace(forked, run=5, memory_bytes=np.array([118e6, 150e6]))
    started = run(6, 15, parent=10, name="viewer", started=2.0, memory=118e6, cpu=at)
    told = replace(forked, run=7, proportional_bytes=np.array([9e6, 9e6]))
    held_back = replace(started, run=8, proportional_bytes=np.zeros(2))  # some kernels say 0
    held = memory_at_end(agent, forked, writing, all_of_it, grown, started, told, held_back)
    assert held == [120e6, 0.0, 30e6, 118e6, 30e6, 118e6, 9e6, 118e6]
    # Where the agent is gone, one of those that are left holds what all of them share.
    gone = replace(agent, ended=4.0)
    ended = replace(forked, run=8, ended=4.0)
    assert memory_at_end(gone, ended, forked, replace(forked, run=9))[2:] == [118e6, 0.0]
    assert memory_at_end(gone, replace(forked, run=9, started=9.0))[1:] == [118e6]  # just now
