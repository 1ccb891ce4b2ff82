"""The recorder on the machine it runs on, and on texts a machine could give."""

import os
import random
import re
import signal
import subprocess
import sys
import threading
import time
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.hardware.facts import facts_of_this_pc
from plucky_ledger.capture.sampling import programs
from plucky_ledger.capture.sampling.counters import cpu_seconds, disk_counters, memory_bytes
from plucky_ledger.capture.sampling.programs import ProgramSampler
from plucky_ledger.capture.sampling.recorder import ADAPTIVE, record
from plucky_ledger.capture.services.units import boot_lines
from plucky_ledger.cli.record import main as record_main
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.exchange.timelines import timeline_from
from plucky_ledger.pages.curves import StripKind, readings_at
from plucky_ledger.pages.lanes import lanes_page
from plucky_ledger.pages.load import LoadQuestion, Span, load_page
from plucky_ledger.recording.lines import Header, MarkLine, ProgramLine, ProgramsLine, StageLine
from plucky_ledger.recording.reader import Recording
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup
from plucky_ledger.standin.museum import TICKET_DESK
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.recording.boots import import_recording
from tests.helpers.real_pc import PlayedBack

ALLOWED = {"msgspec", "plucky_ledger", "typing_extensions"}
"""The last one is loaded by msgspec itself where it is installed."""


def test_this_machine_recorded_imported_and_shown(tmp_path, ledger, capsys):
    """The real recorder reads the real /proc; a busy program of ours is found in it."""
    path, open_before = tmp_path / "boot.jsonl.gz", os.listdir("/proc/self/fd")
    busy = subprocess.Popen([sys.executable, "-c", "while True: pass"])
    try:
        assert record_main(["--for", "3", "--rate", "4", "--out", str(path)]) == 0
    finally:
        busy.kill()
        busy.wait()
    assert len(os.listdir("/proc/self/fd")) == len(open_before)
    (told,) = re.findall(r"Recorded (\d+) samples", capsys.readouterr().out)
    assert 6 < int(told) <= 13  # fewer where the machine keeps it waiting
    number = take_in(ledger, Card("", "bench PC"), Facts())
    import_recording(ledger, number, path)
    job = read_job(ledger, number)
    (boot,) = job.opening_boots
    analysis = Analyses().of(ledger, number, boot)
    timeline = analysis.timeline
    assert boot.marks[Mark.KERNEL_STARTED] == 0.0
    assert job.facts.cores == os.cpu_count()
    (spinning,) = [run for run in timeline.runs if run.pid == busy.pid]
    assert spinning.cpu_seconds[-1] - spinning.cpu_seconds[0] > 0.3
    assert sum(run.own for run in timeline.runs) == 1
    lanes = lanes_page(analysis)
    assert [strip.kind for strip in lanes.strips] == list(StripKind)
    assert len(readings_at(lanes.strips, timeline.samples.seconds[5] + 0.1)) == 4
    load = load_page(analysis, LoadQuestion(Span.WHOLE))
    assert any(row.measuring for row in load.rows)


ASKED_AGAIN_AND_AGAIN = """
from plucky_ledger.capture.sampling.recorder import BootClock
for _ in range(300):
    clock = BootClock()
    clock.stop_on_signals()
    print("ready", flush=True)
    while clock.sleep_until(clock.now() + 20e-6):
        pass
    print(clock.may_ask(), flush=True)
"""


@pytest.mark.parametrize("wish", [signal.SIGTERM, signal.SIGINT])
def test_a_wish_to_stop_is_heard_at_any_moment(wish):
    """Most moments of so short a wait are its beginning and its end."""
    waiting = subprocess.Popen(
        [sys.executable, "-c", ASKED_AGAIN_AND_AGAIN],
        stdout=subprocess.PIPE,
    )
    unheard = threading.Timer(30.0, waiting.kill)
    unheard.start()
    assert waiting.stdout is not None
    moments = random.Random(7)
    with waiting:
        while waiting.stdout.readline() == b"ready\n":
            time.sleep(moments.uniform(0.0, 0.001))
            waiting.send_signal(wish)
            assert waiting.stdout.readline() == f"{wish == signal.SIGINT}\n".encode()
    unheard.cancel()
    assert waiting.returncode == 0


def test_a_real_boot_gives_its_real_figures(tmp_path, ledger):
    """Captured once on a real PC: it was up at 55.9 s and calm right after 60 s."""
    path = tmp_path / "boot.jsonl.gz"
    source = PlayedBack()
    with RecordingWriter(path) as writer:
        record(source, source, writer, for_seconds=600.0)
    number = take_in(ledger, Card("", "captured PC"), Facts())
    assert import_recording(ledger, number, path).remarks == (Reason(ReasonCode.IN_THE_BOOK),)
    (boot,) = read_job(ledger, number).opening_boots
    assert boot.readings[Measure.SYSTEM_UP].value == pytest.approx(55.89, abs=0.01)
    assert boot.readings[Measure.SETTLED].value == pytest.approx(55.9, abs=0.5)
    assert boot.readings[Measure.CPU_WORK].value == pytest.approx(100.0, rel=0.1)
    assert [stage.kind for stage in Analyses().of(ledger, number, boot).timeline.stages] == [
        "kernel"
    ]


class KeptWaiting:
    """A stand-in PC so busy that the recorder waits for each sample; its own work stays small."""

    def __init__(self, boot) -> None:
        self.boot = boot

    def __getattr__(self, name):
        return getattr(self.boot, name)

    def sample(self):
        self.boot.sleep_until(self.boot.now() + 0.6)
        return self.boot.sample()


def test_a_recorder_that_is_kept_waiting_goes_on_at_its_pace(tmp_path):
    """Only its own work makes it slower: a busy PC is what is to be recorded."""
    boot = TICKET_DESK.restart(Setup(), 3, datetime(2026, 11, 2, 9, 0, tzinfo=UTC))
    with RecordingWriter(tmp_path / "boot.jsonl") as writer:
        record(KeptWaiting(boot), boot, writer, 30.0, ADAPTIVE)
    assert writer.samples >= 30


def test_the_recorder_imports_the_standard_library_and_msgspec_only():
    """It has to start cheaply at the worst moment of the machine's life."""
    code = (
        "import sys; sys.argv=['plucky-ledger','record','--such']\n"
        "from plucky_ledger.__main__ import main\n"
        "try: main()\nexcept SystemExit: pass\n"
        "import plucky_ledger.capture.sampling.this_pc\n"
        "print(*{name.partition('.')[0] for name in sys.modules})"
    )
    out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    loaded = set(out.stdout.splitlines()[-1].split())
    foreign = {name for name in loaded if name not in sys.stdlib_module_names}
    assert {name for name in foreign if not name.startswith("__")} <= (
        ALLOWED | {"sitecustomize", "_distutils_hack", "_virtualenv"}
    )


def made_up_proc(folder, pid, name=b"tideclock", ticks=5, start=100, rss=10, parent=1):
    """One process in a made-up /proc."""
    (folder / str(pid)).mkdir(exist_ok=True)
    fields = [
        "S",
        str(parent),
        *["0"] * 9,
        str(ticks),
        "0",
        *["0"] * 6,
        str(start),
        "0",
        str(rss),
        "0",
    ]
    text = b"%d (%s) %s\n" % (pid, name, " ".join(fields).encode())
    (folder / str(pid) / "stat").write_bytes(text)
    (folder / str(pid) / "cmdline").write_bytes(b"/opt/%s\0--quiet\0" % name)
    (folder / str(pid) / "io").write_text("rchar: 1\nread_bytes: 4096\nwrite_bytes: 0\n")


def run_lines(lines):
    return [line for line in lines if isinstance(line, ProgramLine)]


def test_only_what_changed_is_written(tmp_path):
    made_up_proc(tmp_path, 10)
    made_up_proc(tmp_path, 11)
    sampler = ProgramSampler(tmp_path)
    assert len(run_lines(sampler.sample(1.0))) == 2
    assert sampler.sample(2.0) == []
    made_up_proc(tmp_path, 11, ticks=9)
    (line,) = sampler.sample(3.0)
    assert isinstance(line, ProgramsLine)
    assert [row.cpu_seconds for row in line.rows] == [9 / os.sysconf("SC_CLK_TCK")]
    assert line.rows[0].bytes_read == 4096
    sampler.close()


def test_the_dear_walk_through_memory_is_taken_for_a_few_at_a_time(tmp_path):
    """The largest first, each again only when much has changed."""
    for pid in range(10, 15):
        made_up_proc(tmp_path, pid, rss=pid)
        (tmp_path / str(pid) / "smaps_rollup").write_text(f"Rss: 9 kB\nPss: {pid} kB\n")
    sampler = ProgramSampler(tmp_path)

    def known(lines):
        rows = [row for line in lines if isinstance(line, ProgramsLine) for row in line.rows]
        return {row.proportional_bytes for row in rows} - {None}

    assert known(sampler.sample(1.0)) == {14 * 1024, 13 * 1024}
    assert known(sampler.sample(2.0)) == {12 * 1024, 11 * 1024}
    assert known(sampler.sample(3.0)) == {10 * 1024}
    assert sampler.sample(4.0) == []
    made_up_proc(tmp_path, 14, rss=15)
    (tmp_path / "14" / "smaps_rollup").write_text("Pss: 99 kB\n")
    assert known(sampler.sample(5.0)) == {14 * 1024}
    made_up_proc(tmp_path, 14, rss=30)
    assert known(sampler.sample(6.0)) == {14 * 1024, 99 * 1024}
    sampler.close()


def test_a_family_is_walked_again_when_it_has_grown(tmp_path):
    """What the parent shared with nobody when it was asked it shares with a child since."""
    sampler = ProgramSampler(tmp_path)

    def told(seconds, pid, rss, share, parent=1):
        made_up_proc(tmp_path, pid, rss=rss, parent=parent)
        (tmp_path / str(pid) / "smaps_rollup").write_text(f"Pss: {share} kB\n")
        lines = sampler.sample(seconds)
        rows = [row for line in lines if isinstance(line, ProgramsLine) for row in line.rows]
        return {row.run: row.proportional_bytes for row in rows if row.proportional_bytes}

    assert told(1.0, 10, 30_000, 120_000) == {0: 120_000 * 1024}
    (tmp_path / "10" / "smaps_rollup").write_text("Pss: 60000 kB\n")
    assert told(2.0, 11, 30_000, 60_000, parent=10) == {1: 60_000 * 1024}
    assert told(3.5, 11, 30_000, 60_000, parent=10) == {0: 60_000 * 1024}
    sampler.close()


def test_those_long_idle_take_turns_and_nothing_of_them_is_lost(tmp_path):
    """Read within a second all the same; who moves is read at every sample."""
    for pid in range(10, 90):
        made_up_proc(tmp_path, pid)
    sampler = ProgramSampler(tmp_path)
    opened = []
    text = sampler._text
    sampler._text = lambda pid, run: opened.append(pid) or text(pid, run)
    for tenth in range(10, 60):
        made_up_proc(tmp_path, 10, ticks=tenth)
        opened.clear()
        lines = sampler.sample(tenth / 10)
    assert 1 <= len(opened) <= 25
    assert 10 in opened
    made_up_proc(tmp_path, 77, ticks=500)
    seen = []
    for tenth in range(60, 70):
        lines = sampler.sample(tenth / 10)
        seen += [row for line in lines if isinstance(line, ProgramsLine) for row in line.rows]
    assert [row.cpu_seconds for row in seen] == [500 / os.sysconf("SC_CLK_TCK")]
    sampler.close()


def test_how_long_a_program_waited_for_a_core_is_told_where_the_kernel_does(tmp_path):
    """Of its first thread; the others are taken to have waited like that."""
    second = os.sysconf("SC_CLK_TCK")
    made_up_proc(tmp_path, 10, ticks=3 * second)
    made_up_proc(tmp_path, 11, ticks=second)
    (tmp_path / "self").mkdir()
    (tmp_path / "self" / "schedstat").write_text("0 0 1\n")
    (tmp_path / "10" / "schedstat").write_text("2000000000 500000000 7\n")
    (tmp_path / "11" / "schedstat").write_text("0 0 0\n")
    sampler = ProgramSampler(tmp_path)
    rows = {row.run: row for row in sampler.sample(1.0)[-1].rows}
    assert sorted(row.queued_seconds or 0.0 for row in rows.values()) == [0.0, 0.75]
    sampler.close()


def test_a_pid_used_again_is_another_run(tmp_path):
    made_up_proc(tmp_path, 10, start=100)
    sampler = ProgramSampler(tmp_path)
    sampler.sample(1.0)
    made_up_proc(tmp_path, 10, name=b"lanternprint", start=900)
    lines = sampler.sample(2.0)
    assert run_lines(lines)[0].name == "lanternprint"
    assert lines[-1].ended == (0,)
    sampler.close()


def test_what_becomes_another_program_is_described_again(tmp_path):
    """By its name at any time, by its command when it is next seen at work; else never again."""
    stat = tmp_path / "10" / "cmdline"
    made_up_proc(tmp_path, 10, name=b"systemd-executor")
    sampler = ProgramSampler(tmp_path)
    (first,) = run_lines(sampler.sample(1.0))
    made_up_proc(tmp_path, 10, name=b"python3", ticks=5)
    stat.write_bytes(b"python3\0-m\0tideclock\0")
    (second,) = run_lines(sampler.sample(2.0))
    assert (first.run, first.name) == (second.run, "systemd-executor")
    assert (second.name, second.command) == ("python3", "python3 -m tideclock")
    stat.write_bytes(b"python3\0-m\0changed its own title\0")
    made_up_proc(tmp_path, 10, name=b"python3", ticks=6)
    stat.write_bytes(b"python3\0-m\0changed its own title\0")
    assert run_lines(sampler.sample(3.0)) == []
    made_up_proc(tmp_path, 10, name=b"tideclock", ticks=7)
    (last,) = run_lines(sampler.sample(9.0))
    assert last.name == "tideclock"
    for at in range(10, 60):
        made_up_proc(tmp_path, 10, name=b"title %d" % at, ticks=at)
        described = len(run_lines(sampler.sample(float(at))))
    assert described == 0  # no end of names makes no end of lines
    made_up_proc(tmp_path, 11, name=b"kworker/0:1-events", parent=2)
    assert len(run_lines(sampler.sample(60.0))) == 1
    made_up_proc(tmp_path, 11, name=b"kworker/0:1", parent=2, ticks=9)
    assert run_lines(sampler.sample(66.0)) == []
    header = Header(
        format="plucky-ledger recording",
        version=1,
        recorder="",
        boot_id="boot",
        started_at="2026-11-02T09:00:00+00:00",
        zone="UTC",
        facts=facts_of_this_pc(),
    )
    recorded = Recording(header=header, programs=[first, second, last])
    (known,) = timeline_from(recorded, None).runs
    assert known.name == "tideclock"
    sampler.close()


def test_what_a_manager_calls_a_process_before_it_starts_is_no_program(tmp_path):
    made_up_proc(tmp_path, 10, name=b"(s-server)")
    (tmp_path / "10" / "exe").symlink_to("/usr/lib/quay/manager (deleted)")
    made_up_proc(tmp_path, 11, name=b"(sd-pam)")
    sampler = ProgramSampler(tmp_path)
    first, second = run_lines(sampler.sample(1.0))
    assert (first.name, first.command) == ("manager", "/usr/lib/quay/manager")
    assert second.name == "(sd-pam)"  # what it runs is not for us to read
    sampler.close()


def test_a_process_that_vanishes_in_the_middle_of_reading_is_ended(tmp_path):
    made_up_proc(tmp_path, 10)
    made_up_proc(tmp_path, 11)
    sampler = ProgramSampler(tmp_path)
    sampler.sample(1.0)
    (tmp_path / "10" / "stat").write_bytes(b"")
    (tmp_path / "11" / "io").unlink()
    made_up_proc(tmp_path, 12)
    (tmp_path / "12" / "stat").unlink()
    lines = sampler.sample(2.0)
    assert [line.ended for line in lines if isinstance(line, ProgramsLine)] == [(0,)]
    sampler.close()


def test_what_may_not_be_read_is_unknown_not_zero(tmp_path, monkeypatch):
    made_up_proc(tmp_path, 10)

    really_read = programs._read

    def read(path):
        if path.endswith("/io"):
            raise PermissionError
        return really_read(path)

    monkeypatch.setattr(programs, "_read", read)
    sampler = ProgramSampler(tmp_path)
    lines = sampler.sample(1.0)
    assert sampler.denied
    assert lines[-1].rows[0].bytes_read is None
    sampler.close()


@given(st.binary(min_size=1, max_size=15).filter(lambda name: b"\0" not in name))
def test_any_program_name_is_taken_as_it_is(tmp_path_factory, name):
    """Brackets, newlines, escape sequences: none of it shifts a field."""
    folder = tmp_path_factory.mktemp("proc")
    made_up_proc(folder, 10, name=name, ticks=7)
    sampler = ProgramSampler(folder)
    described, readings = sampler.sample(1.0)
    assert described.name == name.decode("utf-8", "replace").strip()
    assert readings.rows[0].cpu_seconds == 7 / os.sysconf("SC_CLK_TCK")
    sampler.close()


def _pids():
    return {int(name) for name in os.listdir("/proc") if name.isdigit()}


def test_the_recorder_sees_every_process_of_the_system():
    """All that were there before and after; what came or went meanwhile may be missed."""
    sampler = ProgramSampler()
    before = _pids()
    seen = {line.pid for line in run_lines(sampler.sample(1.0))}
    assert os.getpid() in seen
    assert before & _pids() <= seen
    sampler.close()


def test_counters_mean_what_the_kernel_says():
    stat = b"cpu  100 20 30 4000 500 6 7 800 0 0\ncpu0 ...\n"
    assert cpu_seconds(stat, 100) == pytest.approx(1.63)
    disks = b"   8 0 sda 1 0 2000 9 1 0 40 9 0 1500 9 0\n   8 1 sda1 1 0 2000 9 1 0 40 9 0 1500 9\n"
    disk = disk_counters(disks, frozenset({b"sda"}))
    assert (disk.bytes_read, disk.bytes_written, disk.busy_seconds) == (1_024_000, 20_480, 1.5)
    assert memory_bytes(b"MemTotal: 1000 kB\nMemFree: 1 kB\nMemAvailable: 400 kB\n") == (
        1_024_000,
        614_400,
    )


def test_facts_of_this_machine_are_its_own():
    facts = facts_of_this_pc()
    assert facts.kernel == os.uname().release
    assert facts.memory_bytes == os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    assert all(drive.size_bytes > 0 for drive in facts.drives)


def test_firmware_and_loader_lie_before_the_kernel():
    instants = {"Firmware": 9.0, "Loader": 2.5, "InitRD": 1.2, "Userspace": 3.0, "Finish": 0.0}
    told = boot_lines(
        {f"{stage}TimestampMonotonic": int(at * 1e6) for stage, at in instants.items()}
    )
    stages = {line.name: (line.start, line.end) for line in told if isinstance(line, StageLine)}
    assert stages == {
        "firmware": (-9.0, -2.5),
        "loader": (-2.5, 0.0),
        "kernel": (0.0, 1.2),
        "initrd": (1.2, 3.0),
    }
    assert [line.name for line in told if isinstance(line, MarkLine)] == ["power on"]
