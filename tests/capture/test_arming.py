"""Armed recording: it starts by itself, counts down, and leaves no trace."""

import compileall
import io
import os
import shlex
import shutil
import signal
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress

import msgspec
import pytest

from plucky_ledger.capture import administrator, boot_questions
from plucky_ledger.capture.arming import armed_recorder, arming
from plucky_ledger.capture.arming.arming import arm, armed, armed_for, count_down, take_away
from plucky_ledger.capture.arming.starters import Arming, starter_of
from plucky_ledger.capture.sampling.rest_watch import (
    MARGIN_SECONDS,
    STEADY_SECONDS,
    RestWatch,
)
from plucky_ledger.capture.services import services
from plucky_ledger.cli.record import main as record_main
from plucky_ledger.core.boots.calm import WINDOW_SECONDS
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.linux import administrator as becoming
from plucky_ledger.linux import desktops
from plucky_ledger.linux.files import write_whole
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import acting_as
from plucky_ledger.recording import writer
from plucky_ledger.recording.lines import ActivityLine, EntryLine, SampleLine
from plucky_ledger.recording.reader import read_recording
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.jobs.workplace import Workplace
from plucky_ledger.usecases.recording.arming import armed_state
from plucky_ledger.usecases.recording.picking_up import pick_up
from plucky_ledger.wording.recording import armed_state as armed_state_in_words
from plucky_ledger.wording.recording import recorded_notices, remarks
from plucky_ledger.wording.trouble import trouble_in_words
from tests.helpers.trouble import told
from tests.helpers.users import SOMEBODY, needs_administrator


@pytest.fixture
def places(tmp_path, monkeypatch):
    """This user's folders, and the system's."""
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    return Folders(tmp_path / "config", (), tmp_path / "system", tmp_path / "var" / "recorder")


def files(folder):
    return sorted(str(path.relative_to(folder)) for path in folder.rglob("*") if not path.is_dir())


def to_be_armed(folder, boots=3, user=None):
    folder.mkdir(parents=True, exist_ok=True)
    whose = os.geteuid() if user is None else user
    return Arming(boots, str(folder), whose, "0417", id=str(folder))


@pytest.mark.parametrize("level", list(Level))
def test_disarming_removes_every_trace(tmp_path, places, level):
    arm(to_be_armed(tmp_path / "recordings"), level, places)
    (there,) = armed(places)
    assert (there.starter.level, there.arming.boots_left) == (level, 3)
    assert files(tmp_path)
    assert take_away(there.starter)
    assert files(tmp_path) == []
    assert {path.name for path in tmp_path.iterdir()} <= {"recordings", "var"}
    assert armed(places) == []
    assert not take_away(there.starter)


def test_it_cannot_be_armed_twice_or_for_ever(tmp_path, places):
    arm(to_be_armed(tmp_path / "recordings"), Level.USER, places)
    with told("armed already, for job 0417"):
        arm(to_be_armed(tmp_path / "other"), Level.AUTOSTART, places)
    with told("1 to 40"):
        arm(to_be_armed(tmp_path / "other", 500), Level.AUTOSTART, places)


def test_what_cannot_be_written_leaves_nothing_behind(tmp_path, places):
    """A file stands where the folder of units should be."""
    (tmp_path / "config").write_text("")
    before = files(tmp_path)
    with told("Nothing was armed"):
        arm(to_be_armed(tmp_path / "recordings"), Level.USER, places)
    assert files(tmp_path) == before


@pytest.mark.parametrize("level", list(Level))
def test_killed_between_any_two_writes_it_can_be_armed_and_disarmed(
    tmp_path, places, level, monkeypatch
):
    """After each of its changes to the file system: it is armed whole, or not at all."""
    monkeypatch.setattr(compileall, "compile_dir", compile_the_first)
    changes = ("link", "replace", "symlink", "mkdir", "unlink", "chmod")
    arming = to_be_armed(tmp_path / "recordings")
    with killed_after(sys.maxsize, changes) as counted:
        arm(arming, level, places)
    count = counted.pop()
    take_away(starter_of(level, places))
    # The own copy has hundreds of files, in the middle: a few of them have to do.
    middle = range(5, count - 12, count // 5) if level is Level.SYSTEM else range(5, count - 12)
    for steps in (*range(min(5, count)), *middle, *range(max(5, count - 12), count)):
        for folder in ("config", "system", "var"):
            shutil.rmtree(tmp_path / folder, ignore_errors=True)
        with killed_after(steps, changes) as survived:
            arm(arming, level, places)
        assert not survived
        for one in armed(places):
            assert msgspec.structs.replace(one.arming, seen_boot="", made=()) == arming
        for there in armed(places):
            take_away(there.starter)
        arm(arming, level, places)
        assert armed_for(tmp_path / "recordings", places)
        with killed_after(steps % 5, changes):
            take_away(starter_of(level, places))
        administrator.disarm_everything(places)
        assert files(tmp_path) == []


def compile_the_first(copy, quiet):
    """Stands for compiling all of a copy, which takes a second each time."""
    compileall.compile_file(copy / "__main__.py", quiet=quiet)


class Killed(BaseException):
    """Nothing after it happens, no cleaning up either."""


class killed_after:  # noqa: N801 reads as a sentence
    """Let so many changes through and none after that."""

    def __init__(self, steps, names):
        self.steps = self.left = steps
        self.names, self.real, self.survived = names, {}, []

    def __enter__(self):
        for name in self.names:
            self.real[name] = getattr(os, name)
            setattr(os, name, self.counted(self.real[name]))
        return self.survived

    def counted(self, real):
        def change(*arguments, **named):
            if self.left <= 0:
                self.left = -1
                raise Killed
            self.left -= 1
            return real(*arguments, **named)

        return change

    def __exit__(self, kind, error, traceback):
        for name, real in self.real.items():
            setattr(os, name, real)
        if kind is None:
            self.survived.append(self.steps - self.left)  # how many changes there were
        return kind is Killed


@pytest.mark.parametrize("content", [b"", b"[Unit]\n", b"# State: { not", b"\0" * 4096])
def test_a_damaged_starter_is_recognised_and_cleaned_up(tmp_path, places, content):
    starter = starter_of(Level.USER, places)
    starter.path.parent.mkdir(parents=True)
    starter.path.write_bytes(content)
    assert armed(places) == []
    arm(to_be_armed(tmp_path / "recordings"), Level.USER, places)
    assert armed_for(tmp_path / "recordings", places)
    starter.path.write_bytes(content)
    assert record_main(["--armed", str(starter.path)]) == 0  # at boot it removes itself
    assert not starter.traces
    starter.path.write_bytes(content)
    assert administrator.disarm_everything(places)
    assert not starter.traces


def test_armed_boots_are_recorded_counted_and_picked_up(tmp_path, ledger, places, monkeypatch):
    """As the service manager would start it, twice; then the ledger takes both in."""
    monkeypatch.setattr(armed_recorder, "LIMIT_SECONDS", 1.0)
    told_to_the_user = []
    notify = lambda words, user: told_to_the_user.append((words, user))  # noqa: E731
    monkeypatch.setattr("plucky_ledger.linux.notifications.notify", notify)
    number = take_in(ledger, Card("", "bench PC"), Facts())
    place = Workplace.beside(ledger.path)
    asked = msgspec.structs.replace(
        to_be_armed(place.armed(number), 2), boots=2, notices=recorded_notices()
    )
    arm(asked, Level.AUTOSTART, places)
    starter = starter_of(Level.AUTOSTART, places).path
    for boot in ("first", "second"):
        monkeypatch.setattr(armed_recorder, "boot_id", lambda boot=boot: boot)
        monkeypatch.setattr(
            "plucky_ledger.capture.sampling.this_pc.boot_id", lambda _proc="", b=boot: b
        )
        assert record_main(["--armed", str(starter)]) == 0
    assert armed_state(place, number).boots_left == 0
    assert not starter.exists()
    assert told_to_the_user == [
        ("Boot 1 of 2 is recorded. Restart now for the next.", os.geteuid()),
        ("All 2 boots are recorded. Open Plucky Ledger to see them.", os.geteuid()),
    ]
    armed = Arming(boots_left=1, folder="", user=1, boots=2, notices=recorded_notices())
    assert armed.notice(1, 53.6).endswith("for the next. It was calm 54 s after its start.")
    assert Arming(boots_left=0, folder="", user=1, notices=("a", "b")).notice(0, 53.6) == "b"
    pick_up(ledger, place, number)
    assert len(read_job(ledger, number).opening_boots) == 2
    assert armed_state(place, number).waiting == ()


def test_started_twice_in_one_boot_the_second_steps_back(tmp_path, places, monkeypatch, caplog):
    monkeypatch.setattr(armed_recorder, "LIMIT_SECONDS", 1.0)
    place, number = Workplace(tmp_path), 7
    folder = place.armed(number)
    arm(to_be_armed(folder, 2), Level.USER, places)
    (folder / "boot-same.jsonl.gz").write_bytes(b"")
    monkeypatch.setattr(armed_recorder, "boot_id", lambda: "same")
    assert record_main(["--armed", str(starter_of(Level.USER, places).path)]) == 1
    assert "recording_exists" in caplog.text
    assert armed_state(place, number).boots_left == 2


@pytest.fixture
def recorder(places, tmp_path):
    """An armed recorder at work, with something recorded."""
    folder = tmp_path / "recordings"
    arm(to_be_armed(folder, 3), Level.USER, places)
    starter = starter_of(Level.USER, places)
    process = subprocess.Popen(
        [sys.executable, "-m", "plucky_ledger", "record", "--armed", str(starter.path)],
        stderr=subprocess.PIPE,
    )
    deadline = time.monotonic() + 60
    while len(samples_in(folder)) < 2:
        assert process.poll() is None, process.stderr.read()
        assert time.monotonic() < deadline
        time.sleep(0.1)
    yield process
    process.kill()
    process.communicate()


def samples_in(folder):
    """Samples of the one recording, as far as it is on the disk."""
    for path in folder.iterdir():
        with suppress(Trouble):
            return read_recording(io.BytesIO(path.read_bytes())).samples
    return []


def test_disarming_ends_the_recorder_that_is_at_work_and_keeps_what_it_has(
    recorder, places, tmp_path
):
    assert administrator.disarm_everything(places)
    assert recorder.wait(30) == 0
    (path,) = (tmp_path / "recordings").iterdir()
    recording = read_recording(io.BytesIO(path.read_bytes()))
    assert not recording.cut_short
    assert len(recording.samples) >= 2
    assert files(tmp_path) == [f"recordings/{path.name}"]


def test_a_recorder_uses_up_nothing_but_the_arming_that_started_it(recorder, places, tmp_path):
    """It was armed anew while the recorder of the arming before was at work."""
    starter = starter_of(Level.USER, places)
    starter.path.unlink()
    next(iter(starter.links)).unlink()
    arm(to_be_armed(tmp_path / "other", 1), Level.USER, places)
    recorder.send_signal(signal.SIGTERM)
    assert recorder.wait(30) == 0
    assert armed(places)[0].arming.boots_left == 1
    assert armed(places)[0].arming.folder == str(tmp_path / "other")


def test_a_boot_that_was_armed_for_and_not_recorded_is_said(places, ledger, monkeypatch):
    number = take_in(ledger, Card("", "bench PC"), Facts())
    place = Workplace.beside(ledger.path)
    arm(to_be_armed(place.armed(number), 2), Level.USER, places)
    assert pick_up(ledger, place, number) == []
    monkeypatch.setattr(arming, "boot_id", lambda: "a later one")
    monkeypatch.setattr(arming, "seconds_up", lambda: 60.0)
    assert pick_up(ledger, place, number) == []  # it may still be about to start
    monkeypatch.setattr(arming, "seconds_up", lambda: 600.0)
    (said,) = pick_up(ledger, place, number)
    assert "was to be recorded and was not" in trouble_in_words(said)
    starter = starter_of(Level.USER, places)
    count_down(starter, starter.read().id)
    assert pick_up(ledger, place, number) == []


@pytest.mark.parametrize("level", list(Level))
def test_what_starts_a_program_that_is_gone_removes_itself_and_says_so(
    tmp_path, places, level, monkeypatch
):
    """It was removed from the PC while it was armed."""
    if level is not Level.SYSTEM:
        monkeypatch.setattr("plucky_ledger.__file__", str(tmp_path / "gone" / "__init__.py"))
    arm(to_be_armed(tmp_path / "recordings"), level, places)
    starter = starter_of(level, places)
    if starter.runs_a_copy:
        shutil.rmtree(starter.own_copy)
    key = "Exec=" if level is Level.AUTOSTART else "ExecStart="
    line = next(row for row in starter.path.read_text().splitlines() if row.startswith(key))
    words = shlex.split(line.removeprefix(key).replace("\\\\", "\\"))
    assert words[:2] == ["/bin/sh", "-c"]
    done = subprocess.run(words, capture_output=True, text=True, check=False)
    assert "gone from this PC" in done.stderr
    assert files(tmp_path) == []


def test_two_who_arm_at_once_one_is_told_that_it_is_armed(tmp_path, places):
    def work(number):
        try:
            arm(to_be_armed(tmp_path / f"recordings-{number}"), Level.USER, places)
        except Trouble as trouble:
            return trouble.code
        return None

    with ThreadPoolExecutor(8) as pool:
        told_back = list(pool.map(work, range(8)))
    assert sorted(map(str, told_back)) == ["None", *["armed_already"] * 7]
    assert files(tmp_path / "config")
    assert take_away(starter_of(Level.USER, places))


# What an ordinary user could turn against the administrator.


def started_by(starter):
    """The recorder's command in what starts it."""
    return shlex.split(starter.path.read_text().partition(" && exec ")[2].partition(";")[0])


def as_the_manager_would(starter):
    """Run the administrator's own copy as the unit says, in a process of its own."""
    command = started_by(starter)
    short = f"""
import sys; sys.argv = {command[3:]!r}; sys.path.insert(0, {command[3]!r})
import runpy
from plucky_ledger.capture.arming import armed_recorder
armed_recorder.LIMIT_SECONDS = 1.0
runpy.run_path({command[3]!r}, run_name="__main__")
"""
    return subprocess.run(
        [*command[:3], "-c", short],
        capture_output=True,
        text=True,
        check=False,
        env={},
        timeout=120,
    )


@needs_administrator
def test_the_own_copy_records_into_the_users_folder_as_that_user(tmp_path, places, users_home):
    folder = users_home / "recordings"
    with acting_as(SOMEBODY):
        folder.mkdir()
    arm(to_be_armed(folder, 2, SOMEBODY), Level.SYSTEM, places)
    starter = starter_of(Level.SYSTEM, places)
    done = as_the_manager_would(starter)
    assert done.returncode == 0, done.stderr
    (recording,) = folder.iterdir()
    assert recording.stat().st_uid == SOMEBODY
    assert not boot_from_bytes(recording.read_bytes()).boot.cut_short
    assert armed_for(folder, places).arming.boots_left == 1
    ours = [starter.own_copy, *starter.own_copy.rglob("*")]
    assert {path.lstat().st_uid for path in ours} == {0}
    assert all(not path.lstat().st_mode & 0o022 for path in ours)


@needs_administrator
@pytest.mark.parametrize("where", ["folder", "above", "file"])
def test_recordings_cannot_be_led_elsewhere(tmp_path, places, users_home, monkeypatch, where):
    """The user puts a link in the place of the folder or of the recording."""
    monkeypatch.setattr(armed_recorder, "LIMIT_SECONDS", 1.0)
    monkeypatch.setattr(armed_recorder, "boot_id", lambda: "this")
    secret = tmp_path / "secret" / "armed"
    secret.mkdir(parents=True)
    (secret / "kept").write_text("the administrator's")
    folder = users_home / "recordings" / "armed"
    with acting_as(SOMEBODY):
        folder.parent.mkdir()
        if where == "folder":
            folder.symlink_to(secret)
        elif where == "above":
            folder.parent.rmdir()
            folder.parent.symlink_to(secret.parent)
        else:
            folder.mkdir()
            (folder / "boot-this.jsonl.gz").symlink_to(secret / "new")
    arm(Arming(1, str(folder), SOMEBODY, "0417"), Level.SYSTEM, places)
    starter = starter_of(Level.SYSTEM, places)
    assert armed_recorder.record_from_a_copy(starter.path, starter.own_copy) == 1
    assert files(secret) == ["kept"]
    assert (secret / "kept").read_text() == "the administrator's"


@needs_administrator
def test_a_users_starter_removes_nothing_but_itself(tmp_path, places, users_home, monkeypatch):
    """Whatever it says; and what the administrator disarms for a user is done as that user."""
    secret = tmp_path / "secret"
    secret.mkdir()
    unit = users_home / ".config/systemd/user/plucky-ledger-recorder.service"
    wants = unit.parent / "default.target.wants"
    secret.joinpath(unit.name).write_text("the administrator's")
    with acting_as(SOMEBODY):
        unit.parent.mkdir(parents=True)
        unit.write_text(
            f'# State: {{"boots_left":1,"folder":"{secret}","user":0,"traces":["x"]}}\n'
        )
        wants.symlink_to(secret)
    arm(to_be_armed(tmp_path / "recordings"), Level.SYSTEM, places)
    monkeypatch.setattr(administrator, "homes", lambda: {SOMEBODY: users_home})
    assert administrator.disarm_everything(places)
    assert files(secret) == [unit.name]
    assert not unit.exists()
    assert not starter_of(Level.SYSTEM, places).traces


@needs_administrator
def test_nothing_runs_as_administrator_that_others_can_change(
    tmp_path, places, users_home, monkeypatch
):
    theirs = users_home / "python"
    with acting_as(SOMEBODY):
        theirs.write_text("#!/bin/sh\n")
    monkeypatch.setattr(
        "plucky_ledger.capture.arming.own_copy.own_interpreter", lambda: str(theirs)
    )
    with told("other accounts can change it"):
        arm(to_be_armed(tmp_path / "recordings"), Level.SYSTEM, places)
    assert files(tmp_path) == []


@needs_administrator
def test_whoever_asks_the_administrator_gets_it_written_as_themselves(tmp_path, monkeypatch):
    taken = []
    monkeypatch.setattr(administrator, "arm", lambda arming, *_: taken.append(arming.user))
    order = b'{"boots_left":1,"folder":"/somewhere","user":0}'
    administrator.carry_out("arm", order, {"SUDO_UID": str(SOMEBODY)})
    administrator.carry_out("arm", order, {"PKEXEC_UID": str(SOMEBODY)})
    assert taken == [SOMEBODY, SOMEBODY]


def test_a_refusal_of_the_administrator_is_told_as_it_is(monkeypatch, tmp_path, places):
    """Through another process and back, or in words where nobody became administrator."""
    monkeypatch.setattr(becoming, "is_administrator", lambda: False)
    monkeypatch.setattr(becoming, "_becoming", lambda: ["env", f"SUDO_UID={os.getuid()}"])
    with told("1 to 40"):
        administrator.arm_the_system(Arming(99, str(tmp_path), 0))
    monkeypatch.setattr(becoming, "_becoming", lambda: ["false"])
    with told("no password was accepted"):
        administrator.disarm_the_system()
    monkeypatch.undo()
    monkeypatch.setattr(becoming, "is_administrator", lambda: False)
    monkeypatch.setattr(shutil, "which", lambda _name: None)
    with told("cannot ask"):
        administrator.disarm_the_system()


def test_sign_in_programs_keep_the_rule_by_which_they_do_not_start(tmp_path, monkeypatch):
    """The manager makes a unit of each, and its desktop entry says why that did nothing, if so."""
    switched_off = "X-GNOME-Autostart-enabled=false"
    rules = {
        "a": "OnlyShowIn=SeaDesk;",
        "b": "OnlyShowIn=TicketDesk;",
        "c": "",
        "d": switched_off,
        "e": switched_off,
    }
    for name, rule in rules.items():
        (tmp_path / ".config/autostart").mkdir(parents=True, exist_ok=True)
        entry = f"[Desktop Entry]\nType=Application\nName={name}\nExec=/bin/true\n{rule}\n"
        write_whole(tmp_path / ".config/autostart" / f"{name}.desktop", entry.encode())
    by_the_manager = [
        EntryLine(f"{name}.desktop", name, "user", "sign-in program", group=f"/app-{name}")
        for name in ("a", "b", "d", "e")
    ]
    for name, result in (("a", "failed: exec-condition"), ("d", "")):
        began = {"waiting_from": 1.0, "starting_from": 2.0, "result": result}
        by_the_manager.append(ActivityLine(f"{name}.desktop", **began))
    monkeypatch.setattr(
        services, "bus_of_the_person", lambda **_asked: (os.getuid(), "unix:path=/none")
    )
    session = {"XDG_CURRENT_DESKTOP": "TicketDesk", "XDG_CONFIG_DIRS": str(tmp_path / "none")}
    monkeypatch.setattr(desktops, "session_environment", lambda _address: session)
    monkeypatch.setattr(services, "lines_of_the_user", lambda _address: by_the_manager)
    monkeypatch.setattr(boot_questions, "homes", lambda: {os.getuid(): tmp_path})
    monkeypatch.setattr(boot_questions, "become", lambda _user: None)
    lines = {
        line.entry: line for line in boot_questions._of_the_user() if isinstance(line, EntryLine)
    }
    assert lines["a.desktop"].off.code == ReasonCode.ONLY_FOR_DESKTOPS
    assert lines["a.desktop"].group == "/app-a"
    assert [lines[f"{name}.desktop"].off for name in "bc"] == [None, None]
    assert lines["d.desktop"].off is None  # the manager started it all the same
    assert lines["e.desktop"].off.code == ReasonCode.SWITCHED_OFF


def test_without_a_starter_nothing_is_recorded(tmp_path):
    assert record_main(["--armed", str(tmp_path / "plucky-ledger-recorder.service")]) == 0
    assert os.listdir(tmp_path) == []


def test_a_boot_that_could_not_be_recorded_is_told_and_stays_armed(
    ledger, places, monkeypatch, tmp_path
):
    """As on a full disk: why is kept with what starts the recorder, until a boot is recorded."""
    number = take_in(ledger, Card("", "bench PC"), Facts())
    place = Workplace.beside(ledger.path)
    folder = place.armed(number)
    folder.mkdir(parents=True)
    arm(to_be_armed(folder, 2), Level.USER, places)
    starter = starter_of(Level.USER, places).path
    monkeypatch.setattr(armed_recorder, "LIMIT_SECONDS", 0.3)
    monkeypatch.setattr(writer, "LEAST_FREE_BYTES", 2**62)
    assert record_main(["--armed", str(starter)]) == 1
    state = armed_state(place, number)
    assert state.boots_left == 2
    assert "The last boot was not recorded" in armed_state_in_words(state)
    assert "free" in remarks(pick_up(ledger, place, number))
    monkeypatch.undo()
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setattr(armed_recorder, "LIMIT_SECONDS", 0.3)
    assert record_main(["--armed", str(starter)]) == 0
    state = armed_state(place, number)
    assert (state.boots_left, state.trouble, len(state.waiting)) == (1, None, 1)


def test_a_broken_recording_is_named_and_kept(ledger):
    number = take_in(ledger, Card("", "bench PC"), Facts())
    place = Workplace.beside(ledger.path)
    folder = place.armed(number)
    folder.mkdir(parents=True)
    (folder / "boot-x.jsonl.gz").write_text("nonsense\n")
    assert "boot-x.jsonl.gz was not imported" in remarks(pick_up(ledger, place, number))
    assert armed_state(place, number).waiting


def watched(busy, seconds, rest=lambda _second: 0.02, waited=0.0):
    """When a watch on a two-core PC ends: busy for a while, and then as ``rest`` says, in cores.

    ``waited`` is the share of the time in which some program waits for a core.
    """
    watch = RestWatch(2, not_before=0.0)
    cpu = 0.0
    for second in range(seconds):
        cpu += 1.5 if second < busy else rest(second)
        line = SampleLine(float(second), cpu, 0, 0, 0.0, 0, 0)
        watch.take(msgspec.structs.replace(line, cpu_pressure_seconds=waited * second))
        if watch.rested:
            return second
    return None


def test_the_recorder_stops_once_the_pc_has_rested_long_enough():
    assert watched(busy=40, seconds=50) is None
    stopped = watched(busy=40, seconds=200)
    assert 40 + WINDOW_SECONDS < stopped <= 41 + WINDOW_SECONDS + MARGIN_SECONDS


def test_a_pc_that_is_never_calm_has_a_rest_of_its_own():
    """Steady for long, spikes or not; what fades out, grows or fills a core is work."""
    restless = {"steady": lambda _: 0.4, "spikes": lambda s: 1.9 if s % 10 == 0 else 0.45}
    for rest in restless.values():
        stopped = watched(40, 280, rest)
        assert 40 + STEADY_SECONDS / 2 < stopped <= 42 + STEADY_SECONDS
    at_work = {
        "fades out": lambda s: 1.2 * 0.99 ** (s - 40),
        "fills a core": lambda _: 1.0,
        "comes in waves": lambda s: 1.5 if s % 20 < 8 else 0.3,
    }
    for work in at_work.values():
        assert watched(40, 170, work) is None
    assert watched(40, 170, lambda _: 0.4, waited=0.9) is None, "as much as its host gives it"
