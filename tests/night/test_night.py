"""A night shift: what it does at each boot, what stops it, and how it is booked in the morning."""

import os
import sys
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import msgspec
import numpy as np
import pytest

from plucky_ledger.capture.arming.restart import HoldUp
from plucky_ledger.capture.arming.starters import Arming
from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.book.effects import effects_of
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.entry_states import entry_states
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.statistics.design import next_of_night, night_series
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.night import administrator, agent, ending, notice, snapshot, starter, stops
from plucky_ledger.night import state_switching as states
from plucky_ledger.night.plan import MOST_CUT, Booted, NextState, NightPlan
from plucky_ledger.night.plan_file import (
    keep_plan,
    last_night,
    plan_path,
    read_plan,
    report_path,
    take_room,
)
from plucky_ledger.usecases.changing.postings import pencil
from plucky_ledger.usecases.jobs.jobs import find_job, read_job, take_in
from plucky_ledger.usecases.jobs.undo import redo, undo
from plucky_ledger.usecases.jobs.workplace import Workplace
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import CostsKept
from plucky_ledger.usecases.recording import night_report, night_shift
from plucky_ledger.usecases.recording.boots import add_typed
from plucky_ledger.wording.night import boots_in_words, standing

BELL, HORN = "bell.desktop", "horn.service"
SERIES = ((), (BELL, HORN), (BELL,), (HORN,))


class Bench:
    """A PC that obeys, and an agent that runs in it boot by boot."""

    def __init__(self, tmp_path, monkeypatch):
        self.folders = Folders(
            tmp_path / "config", (), tmp_path / "units", tmp_path / "var", tmp_path / "state"
        )
        self.proc = tmp_path / "proc"
        (self.proc / "sys/kernel/random").mkdir(parents=True)
        self.off, self.restarts, self.armed, self.refuses = (), 0, True, False
        self.monkeypatch = monkeypatch
        self.records, self.held_up, self.comes, self.fails = True, [], False, None
        self.shown = []
        for name, does in (
            ("off_now", lambda _plan: self.off),
            ("bring_to", self.bring_to),
            ("restart", self.restart),
            ("_is_recording", lambda: False),
            ("starter_of", lambda *_: self),
            ("held_up_by", self.held_up_by),
            ("AtThePc", lambda: self),
            ("LEAST_SECONDS", 0.0),
        ):
            monkeypatch.setattr(agent, name, does)
        for name, does in (
            ("put_everything_back", self.put_back),
            ("disarm", self.disarm),
            ("users_with_changes", lambda: ()),
        ):
            monkeypatch.setattr(ending, name, does)
        monkeypatch.setattr(snapshot, "take", self.snapshot)
        monkeypatch.setattr(notice, "show", lambda text, _user: self.shown.append(text))
        monkeypatch.setattr(notice, "hide", self.shown.clear)
        monkeypatch.setattr(stops, "stop_file", lambda _user: tmp_path / "stop")
        monkeypatch.setattr(stops, "power_source", lambda: "mains")
        monkeypatch.setattr(starter.own_copy, "install", lambda *_: None)
        self.begin()

    def begin(self):
        starter.install(self.folders)
        take_room(self.folders)
        snapshot.keep(snapshot.take(None, None), self.folders)
        self.armed = True
        self.keep(NightPlan("night-1", "0001", 1000, (BELL, HORN), SERIES, 40.0, notice="ends so"))

    def keep(self, plan):
        keep_plan(plan, self.folders)

    @property
    def plan(self):
        return last_night(self.folders)

    def snapshot(self, *_):
        """What is there is told by what is off."""
        files = {"/etc/horn": "off" if HORN in (self.off or ()) else "on"}
        return snapshot.Snapshot(snapshot.LevelSnapshot(files, {}), None)

    def held_up_by(self, _user):
        return self.held_up

    def somebody(self):
        return self.comes

    def close(self):
        pass

    def read(self):
        """The arming, as the recorder leaves it."""
        last = self.records and self.plan.recorded >= len(self.plan.series)
        seen = self.boot_id if self.records else "an earlier one"
        return None if last or not self.armed else Arming(9, "/r", 1000, seen_boot=seen)

    def bring_to(self, _plan, off):
        if self.fails is not None:
            raise self.fails
        if self.refuses:
            raise Trouble(TroubleCode.NIGHT_SHIFT_NOT_SWITCHED)
        self.off = off

    def put_back(self, _plan):
        if self.refuses:
            return [Trouble(TroubleCode.NIGHT_SHIFT_NOT_SWITCHED)]
        self.off = ()
        return []

    def restart(self):
        self.restarts += 1

    def arm(self, arming, _level, _folders):
        self.armed, self.armed_by = True, arming

    def disarm(self, _starter):
        self.armed = False

    def boot(self, uptime=60.0):
        number = len(self.plan.boots) + 1
        (self.proc / "uptime").write_text(f"{uptime} 0\n")
        self.boot_id = f"boot-{number}"
        (self.proc / "sys/kernel/random/boot_id").write_text(f"{self.boot_id}\n")
        return self.boot_again()

    def boot_again(self):
        return agent.run(self.folders, self.proc)

    @property
    def traces(self):
        """Everything but the report."""
        roots = (self.folders.system_units, self.folders.administrators)
        there = [path for root in roots for path in root.rglob("*") if not path.is_dir()]
        return [path for path in there if path != report_path(self.folders)]


@pytest.fixture
def bench(tmp_path, monkeypatch):
    return Bench(tmp_path, monkeypatch)


def over(bench, reason):
    return (
        (bench.plan.ended, bench.plan.restored, bench.off, bench.armed, bench.traces)
        == (
            reason.value,
            True,
            (),
            False,
            [],
        )
        and bench.plan.left == ()
        and not bench.shown
    )


def test_it_goes_through_its_series_and_leaves_no_trace(bench):
    for boot, state in enumerate(SERIES):
        assert bench.off == state
        assert bench.boot() == 0
        assert bench.restarts == min(boot + 1, 3)
    assert [booted.off for booted in bench.plan.boots] == list(SERIES)
    assert all(booted.recorded for booted in bench.plan.boots)
    assert over(bench, ReasonCode.NIGHT_THROUGH)
    assert bench.boot() == 0  # started once more by mistake: nothing happens
    assert bench.restarts == 3
    assert over(bench, ReasonCode.NIGHT_THROUGH)


def test_what_was_measured_says_what_is_measured_next_and_when_it_is_enough(bench):
    answers = [NextState((HORN,)), Trouble(TroubleCode.NIGHT_SHIFT_NOT_SWITCHED), NextState(None)]

    def answer(_plan):
        told = answers.pop(0)
        if isinstance(told, Trouble):
            raise told
        return told

    bench.monkeypatch.setattr(agent, "next_state", answer)
    bench.keep(msgspec.structs.replace(bench.plan, asks=("tell",)))
    bench.boot()
    assert bench.off == (HORN,)
    bench.boot()  # nobody answers: as it was planned
    assert bench.off == SERIES[2]
    bench.boot()
    assert over(bench, ReasonCode.NIGHT_EXACT_ENOUGH)


@pytest.mark.parametrize("tells", ['{"off": ["other.service"]}', "no JSON", '{"off": 3}', ""])
def test_the_users_command_can_wish_for_nothing_else(bench, tells):
    plan = msgspec.structs.replace(
        bench.plan, user=os.geteuid(), asks=(sys.executable, "-c", f"print({tells!r})")
    )
    with pytest.raises(Trouble):
        states.next_state(plan)
    fine = (sys.executable, "-c", f"print({msgspec.json.encode(NextState((BELL,))).decode()!r})")
    if os.geteuid() == 0:  # becoming somebody is the administrator's
        assert states.next_state(msgspec.structs.replace(plan, asks=fine)).off == (BELL,)


def late(bench):
    asked = bench.plan.restart_asked - 1_000
    bench.keep(msgspec.structs.replace(bench.plan, restart_asked=asked))


def hot(bench, tmp_path):
    (tmp_path / "thermal/thermal_zone0").mkdir(parents=True)
    (tmp_path / "thermal/thermal_zone0/temp").write_text("99000\n")
    (tmp_path / "thermal/thermal_zone1").mkdir()
    (tmp_path / "thermal/thermal_zone1/temp").write_text("no sensor\n")
    hot_there = stops.why_stop(bench.plan, 0.0, tmp_path / "thermal")
    bench.monkeypatch.setattr(agent, "why_stop", lambda *_: hot_there)


@pytest.mark.parametrize(
    ("happens", "reason"),
    [
        (lambda bench, _: late(bench), ReasonCode.NIGHT_BOOT_NEVER_CAME),
        (lambda bench, tmp_path: (tmp_path / "stop").touch(), ReasonCode.NIGHT_STOPPED),
        (
            lambda bench, _: bench.keep(msgspec.structs.replace(bench.plan, until=1.0)),
            ReasonCode.NIGHT_IS_OVER,
        ),
        (
            lambda bench, _: bench.monkeypatch.setattr(stops, "power_source", lambda: "battery"),
            ReasonCode.NIGHT_ON_BATTERY,
        ),
        (hot, ReasonCode.NIGHT_TOO_HOT),
    ],
)
def test_whatever_stops_it_the_pc_ends_as_it_began(bench, tmp_path, happens, reason):
    bench.boot()
    assert bench.off == SERIES[1]
    happens(bench, tmp_path)
    bench.boot()
    assert over(bench, reason)


@pytest.mark.parametrize(
    ("adjtime", "hours", "goes_on"),
    [
        ("0.0 0 0.0\n0\nLOCAL\n", 1, True),
        ("0.0 0 0.0\n0\nLOCAL\n", -1, True),
        ("0.0 0 0.0\n0\nLOCAL\n", 2, False),
        ("0.0 0 0.0\n0\nUTC\n", 1, False),
    ],
)
def test_summer_time_begins_in_a_night_on_a_pc_that_keeps_local_time(
    bench, monkeypatch, tmp_path, adjtime, hours, goes_on
):
    """The clock it starts with is an hour off; no boot has failed to come up."""
    monkeypatch.setattr(bench, "folders", msgspec.structs.replace(bench.folders, etc=tmp_path))
    (tmp_path / "adjtime").write_text(adjtime)
    bench.boot()
    asked = bench.plan.restart_asked - hours * 3_600
    bench.keep(msgspec.structs.replace(bench.plan, restart_asked=asked))
    bench.boot()
    assert (bench.plan.ended == "") is goes_on
    assert goes_on or over(bench, ReasonCode.NIGHT_BOOT_NEVER_CAME)


def test_a_boot_that_is_never_recorded_ends_the_night(bench):
    bench.monkeypatch.setattr(agent, "_is_recording", lambda: True)
    bench.boot(uptime=10_000.0)
    assert over(bench, ReasonCode.NIGHT_BOOT_NEVER_CAME)


def test_what_cannot_be_put_back_is_tried_again_at_the_next_start(bench):
    bench.boot()
    bench.refuses = True
    assert bench.boot() == 1
    assert bench.plan.ended == ReasonCode.NIGHT_NOT_SWITCHED
    assert not bench.plan.restored
    assert bench.traces
    bench.refuses = False
    assert bench.boot() == 0
    assert over(bench, ReasonCode.NIGHT_NOT_SWITCHED)


@pytest.mark.parametrize("fault", [ValueError("a bug"), OSError(28, "full"), MemoryError()])
def test_whatever_is_raised_everything_is_put_back(bench, fault):
    bench.boot()
    bench.fails = fault
    assert bench.boot() == 0
    assert over(bench, ReasonCode.NIGHT_FAILED)


def test_what_never_can_be_put_back_is_left_to_a_person_and_named(bench):
    bench.boot()
    bench.boot()
    bench.off, bench.refuses = (HORN,), True
    for _ in range(ending.MOST_TRIES):
        assert bench.boot() == 1
    assert not bench.plan.restored
    assert bench.plan.left == ("/etc/horn",)
    assert bench.traces == []
    told = standing(report_of(bench))
    assert "Not as it was at the beginning: /etc/horn" in told
    assert "byte for byte" not in told


def report_of(bench):
    bench.monkeypatch.setattr(night_report.Folders, "of_this_user", lambda: bench.folders)
    return night_report.report()


def test_a_plan_that_cannot_be_read_is_put_back_by_the_journals(bench, monkeypatch):
    put_back = []
    monkeypatch.setattr(ending, "_put_back_nights", put_back.append)
    bench.boot()
    plan_path(bench.folders).write_bytes(b"\xff" * 99)
    assert bench.boot_again() == 0
    assert len(put_back) == 1
    assert not bench.armed
    assert bench.traces == []


def test_a_plan_cut_off_while_it_was_written_is_the_one_before(bench):
    path = plan_path(bench.folders)
    room = path.stat().st_size
    for number in range(6):
        before = bench.plan
        bench.keep(msgspec.structs.replace(before, tries=number))
        whole = path.read_bytes()
        newest = max(range(2), key=lambda slot: whole[slot * 200_000 + 64 : slot * 200_000 + 74])
        for cut in (0, 10, 70, 200):
            torn = bytearray(whole)
            torn[newest * 200_000 + cut : (newest + 1) * 200_000] = b" " * (200_000 - cut)
            path.write_bytes(torn)
            assert bench.plan == before
        path.write_bytes(whole)
        assert bench.plan.tries == number
        assert path.stat().st_size == room  # a full disk has room for it


def test_two_boots_without_a_whole_recording_end_it(bench):
    bench.boot()
    bench.records = False
    bench.boot()
    assert bench.restarts == 2
    bench.boot()
    assert bench.restarts == 2
    assert over(bench, ReasonCode.NIGHT_NOT_RECORDED)
    assert [boot.recorded for boot in bench.plan.boots] == [True, False, False]
    assert bench.plan.recorded == 1
    told = "\n".join([standing(report_of(bench)), *boots_in_words(report_of(bench))])
    assert "two boots were not recorded to their end" in told
    assert "boot 3: off:" in told
    assert told.count("not recorded to its end") == 2
    assert "byte for byte" in told


def test_disarming_ends_it(bench):
    bench.boot()
    bench.armed = False
    bench.boot()
    assert over(bench, ReasonCode.NIGHT_DISARMED)


def test_a_person_who_comes_ends_it_and_is_told_how(bench):
    bench.boot()
    bench.monkeypatch.setattr(notice, "hide", lambda: None)
    bench.comes = True
    bench.boot()
    assert bench.shown == [
        "ends so",
    ]
    bench.shown.clear()
    assert over(bench, ReasonCode.NIGHT_SOMEBODY_CAME)


def test_what_holds_up_a_restart_is_waited_for_and_then_ends_it(bench):
    updates = HoldUp(Reason(ReasonCode.HOLDS_UP_RESTART), "updater", only_delays=True)
    bench.held_up = [updates]
    bench.keep(msgspec.structs.replace(bench.plan, accepts=("updater",)))
    bench.boot()
    assert bench.restarts == 1  # it was there at the beginning, and only delays
    bench.monkeypatch.setattr(agent, "LOOK_AGAIN_SECONDS", 0.01)
    bench.held_up = [HoldUp(Reason(ReasonCode.HOLDS_UP_RESTART), "backup")]
    looked = []

    def held_up_by(_user):
        looked.append(1)
        return bench.held_up if len(looked) < 5 else []

    bench.monkeypatch.setattr(agent, "held_up_by", held_up_by)
    bench.boot()
    assert (bench.restarts, len(looked)) == (2, 5)
    bench.monkeypatch.setattr(agent, "HELD_UP_SECONDS", 0.05)
    bench.monkeypatch.setattr(agent, "held_up_by", bench.held_up_by)
    bench.boot()
    assert bench.restarts == 2
    assert over(bench, ReasonCode.NIGHT_HELD_UP)
    assert "backup" in standing(report_of(bench))


def test_after_a_power_cut_it_goes_on_and_a_cut_switch_counts_for_nothing(bench):
    bench.boot()
    bench.boot()
    bench.off = None  # cut off between two writes
    bench.keep(msgspec.structs.replace(bench.plan, restart_asked=0.0))
    bench.boot()
    assert [booted.off for booted in bench.plan.boots] == [(), SERIES[1], None]
    assert [booted.cut for booted in bench.plan.boots] == [False, True, False]
    assert bench.off == SERIES[2]  # the boot that was cut off is made good
    for _ in range(20):  # a PC that never gets through is not left to itself
        if read_plan(bench.folders) is not None:
            bench.keep(msgspec.structs.replace(bench.plan, restart_asked=0.0))
            bench.boot()
    assert len(bench.plan.boots) == len(SERIES) + MOST_CUT
    assert over(bench, ReasonCode.NIGHT_THROUGH)


def test_only_what_may_be_switched_in_a_night_is_begun(bench, monkeypatch):
    monkeypatch.setattr(administrator, "Scope", lambda *_: None)
    ask, plan = {"SUDO_UID": "1000"}, bench.plan
    with pytest.raises(Refused) as refused:
        wish(bench, ask)
    assert refused.value.code is TroubleCode.NIGHT_SHIFT_GOES_ON
    for wrong in (
        {"series": ((), ("other.service",))},
        {"entries": ("../etc/passwd",)},
        {"entries": ()},
        {"series": ((),) * 100},
        {"until": 9e9},
        {"wanted": (EntryState.ON, EntryState.OFF)},
        {"key": "of a posting"},
        {"asks": ("x" * 400_000,)},
    ):
        with pytest.raises((ValueError, Refused)):
            begun_anew(bench, ask, plan, **wrong)


def test_a_night_that_cannot_be_begun_leaves_nothing(bench, monkeypatch):
    """Otherwise the next one would be told that a night goes on."""

    def refuse(*_):
        raise Trouble(TroubleCode.INTERPRETER_OF_OTHERS, path="/usr/bin/python3")

    monkeypatch.setattr(administrator, "Scope", lambda *_: Possible())
    monkeypatch.setattr(starter.own_copy, "install", refuse)
    with pytest.raises(Trouble):
        begun_anew(bench, {})
    assert (bench.plan, bench.traces, bench.armed) == (None, [], False)
    monkeypatch.setattr(starter.own_copy, "install", lambda *_: None)
    plan = NightPlan(
        "night-2",
        "0001",
        1,
        (BELL, HORN),
        SERIES,
        40.0,
        ended="made up",
        notice="\\n all \x1b[2J",
        accepts=("anything",),
    )
    bench.held_up = [HoldUp(Reason(ReasonCode.HOLDS_UP_RESTART), "updater", only_delays=True)]
    wish(bench, {"SUDO_UID": "1000"}, plan)
    now = bench.plan
    assert (now.key, now.user, now.ended) == ("night-2", 1000, "")
    assert (now.notice, now.accepts) == (" n all  [2J", ("updater",))
    assert bench.armed_by == Arming(24, "/recordings", 1000, "0001")
    assert len(bench.traces) == 4
    bench.held_up = [HoldUp(Reason(ReasonCode.HOLDS_UP_RESTART), "updater")]
    with pytest.raises(Refused) as refused:
        begun_anew(bench, {}, plan)
    assert refused.value.code is TroubleCode.NOT_RESTARTED


class Possible:
    """Everything of the system can be switched off."""

    def look(self, entry_ids):
        return [
            Switchable(entry_id=entry, state=EntryState.ON, possible=(EntryState.OFF,))
            for entry in entry_ids
        ]


def begun_anew(bench, environment, plan=None, **changed):
    """After the night that there was."""
    plan = plan or bench.plan
    starter.take_away(bench.folders)
    for path in (plan_path(bench.folders), report_path(bench.folders)):
        path.unlink(missing_ok=True)
    snapshot.drop(bench.folders)
    wish(bench, environment, plan, **changed)


def wish(bench, environment, plan=None, **changed):
    for name, does in (
        ("arm", bench.arm),
        ("disarm", bench.disarm),
        ("held_up_by", bench.held_up_by),
    ):
        bench.monkeypatch.setattr(administrator, name, does)
    bench.monkeypatch.setattr(administrator.Folders, "of_this_user", lambda: bench.folders)
    plan = msgspec.structs.replace(plan or bench.plan, **changed)
    wished = administrator.Beginning(plan, Arming(24, "/recordings", 0, "0001"))
    administrator.carry_out("night-begin", msgspec.json.encode(wished), environment)


@pytest.mark.parametrize("factors", [1, 3, 6])
def test_the_series_tells_every_effect_apart_from_the_others_and_from_drift(factors):
    series = night_series(factors, 24)
    assert series[0] == frozenset()
    design = np.array(
        [
            [1.0, *(float(i in state) for i in range(factors)), place]
            for place, state in enumerate(series)
        ]
    )
    errors = np.sqrt(np.diag(np.linalg.inv(design.T @ design)))[1:-1]
    # A quarter of the boots each way, perfectly balanced, would give 2 / √24 = 0.41.
    assert errors.max() < 0.46


def test_what_is_known_exactly_leaves_the_boots_to_the_others():
    def effect(value, reach):
        return Estimate(value, value - reach, value + reach)

    done = list(night_series(2, 9))
    vague, exact, exact_by_share = effect(-4.0, 2.0), effect(-2.0, 0.4), effect(-20.0, 2.5)
    assert next_of_night(done[:7], [exact, exact]) is not None  # so few may be alike by chance
    assert next_of_night(done, [exact, exact_by_share]) is None
    assert next_of_night(done, [exact, None]) is not None
    going_on = list(done)
    for _ in range(8):
        going_on.append(next_of_night(going_on, [exact, vague]))
    switched = sum(1 in state for state in going_on[9:])
    assert switched == 4  # only what is not known decides, and it is balanced
    assert len({0 in state for state in going_on[9:]}) <= 2


def test_in_the_morning_each_boot_is_booked_to_its_state(ledger, monkeypatch):
    number = take_in(ledger, Card("", "Night PC"), Facts())
    start = datetime(2026, 11, 26, 22, 0, tzinfo=UTC)
    for _ in range(3):
        add_typed(ledger, number, {Measure.SYSTEM_UP: 60.0}, start - timedelta(hours=1))
    later = Change(
        kind=ChangeKind.STARTUP_ENTRY,
        what="Winch",
        why="",
        entry_id="winch.service",
        new_state=EntryState.LATER,
        old_state=EntryState.ON,
    )
    pencil(ledger, number, (later,))
    boots = tuple(Booted(f"boot-{n}", off) for n, off in enumerate((*SERIES, (), None)))
    plan = NightPlan(
        "night-1",
        "0001",
        1000,
        (BELL, HORN),
        SERIES,
        40.0,
        boots=boots,
        ended="night_through",
        ended_at=start.timestamp() + 9e4,
        restored=True,
    )
    monkeypatch.setattr(night_report, "last_night", lambda _folders: plan)
    told = {(): 60.0, SERIES[1]: 45.0, SERIES[2]: 50.0, SERIES[3]: 55.0, None: 58.0}
    for place, booted in enumerate(boots):
        at = start + timedelta(minutes=place)
        boot = replace(read_job(ledger, number).boots[0], started_at=at)
        aside = night_report.book_state(ledger, number, boot, booted.boot_id)
        assert bool(aside) is (booted.off is None)
        assert read_job(ledger, number).postings[-1].changes == (later,)  # still to be made
        add_typed(ledger, number, {Measure.SYSTEM_UP: told[booted.off]}, at)
    assert night_report.book_state(ledger, number, boot, "another") == ""
    night_report.close_night(ledger, number)
    # The last boot was as the PC was found: nothing is left to say, no line and no step.
    assert undo(ledger, number).code is StepCode.ADD_BOOT
    redo(ledger, number)
    job = read_job(ledger, number)
    assert set(entry_states(job).values()) == {EntryState.ON}
    *lines, pencilled = keep_book(job, Measure.SYSTEM_UP).lines
    assert pencilled.balance is None
    assert [line.balance.value for line in lines] == [60.0, 45.0, 50.0, 55.0, 60.0]
    assert lines[-1].same_as == 0
    assert keep_book(job, Measure.SYSTEM_UP).saved_units == 0


def test_what_is_pencilled_is_measured_first_as_it_is_pencilled(demo, monkeypatch):
    """Then the costliest; never what is guarded, nor what is off already."""
    monkeypatch.setattr(night_shift, "is_this_pc", lambda _job: True)
    number = find_job(demo, "0417")
    kept = CostsKept(Analyses())
    night = night_shift.choose(demo, number, kept, 24)
    chosen = [entry.entry_id for entry in night.entries]
    assert 4 < len(chosen) <= night_shift.ENTRIES
    pencilled = {"deckhand-updater": EntryState.OFF, "foghorn-notify": EntryState.LATER}
    assert set(chosen[:2]) == set(pencilled)
    assert dict(zip(chosen[:2], night.wanted[:2], strict=True)) == pencilled
    assert set(night.wanted[2:]) == {EntryState.OFF}
    assert not {"harbour-guard.service", "saltmarsh-backup", "lanternprint-agent"} & set(chosen)
    costs = kept.of(demo, number, read_job(demo, number).rounds[-2]).costs
    seconds = [costs[entry_id].settled.value for entry_id in chosen[2:]]
    assert seconds == sorted(seconds, reverse=True)
    named = night_shift.choose(demo, number, kept, 24, ["brassrail-till"])
    assert [entry.entry_id for entry in named.entries] == ["brassrail-till"]


def test_the_users_own_command_takes_the_boots_in_and_says_what_is_next(ledger, monkeypatch):
    """It ends when each cost is exact; until then it measures what is not."""
    number = take_in(ledger, Card("", "Night PC"), Facts())
    start = datetime(2026, 11, 26, 22, 0, tzinfo=UTC)
    add_typed(ledger, number, {Measure.SYSTEM_UP: 60.0}, start - timedelta(hours=1))
    plan = NightPlan("night-1", "0001", 1000, (BELL, HORN), night_series(2, 20), 40.0)
    wobble = np.random.default_rng(4)
    picked_up = []
    monkeypatch.setattr(night_shift, "read_plan", lambda _folders: plan)
    monkeypatch.setattr(night_report, "last_night", lambda _folders: plan)
    monkeypatch.setattr(night_shift, "pick_up", lambda *asked: picked_up.append(asked))
    off, place = (), Workplace(Path("/nowhere"))
    for boot in range(20):
        plan = msgspec.structs.replace(plan, boots=(*plan.boots, Booted(f"boot-{boot}", off)))
        at = start + timedelta(minutes=boot)
        known = replace(read_job(ledger, number).boots[0], started_at=at)
        night_report.book_state(ledger, number, known, f"boot-{boot}")
        up = 60.0 - 4.0 * (BELL in off) + float(wobble.normal(0, 0.2))
        add_typed(ledger, number, {Measure.SYSTEM_UP: up}, at)
        off = night_shift.next_state(ledger, place, number)
        if off is None:
            break
    assert off is None
    assert 8 <= len(plan.boots) <= 16
    assert len(picked_up) == len(plan.boots)
    (bell, horn) = effects_of(read_job(ledger, number), Measure.SYSTEM_UP).effects
    assert bell.low <= -4.0 <= bell.high
    assert horn.low <= 0.0 <= horn.high
    monkeypatch.setattr(night_shift, "read_plan", lambda _folders: None)
    with pytest.raises(Refused):
        night_shift.next_state(ledger, place, number)
