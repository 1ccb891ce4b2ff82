"""Recording files: nothing is lost on the way, and no file can do harm."""

import errno
import gzip
import io
import json
import os
import signal
import subprocess
import sys
import threading
import time
import zlib
from contextlib import closing
from pathlib import Path

import jsonschema
import msgspec
import numpy as np
import pytest
import zstandard
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.exchange.boots import boot_from
from plucky_ledger.recording import deferred_writer as patient
from plucky_ledger.recording import limits
from plucky_ledger.recording import writer as writer_module
from plucky_ledger.recording.deferred_writer import DeferredWriter
from plucky_ledger.recording.lines import (
    ActivityLine,
    Header,
    Line,
    MarkLine,
    NoteLine,
    PcFacts,
    ProgramLine,
    ProgramRow,
    ProgramsLine,
    SampleLine,
)
from plucky_ledger.recording.reader import RecordingFault, read_recording
from plucky_ledger.recording.schema import schema_text
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.wording.reasons import in_one_line
from plucky_ledger.wording.trouble import trouble_in_words
from tests.helpers.standin import record_to
from tests.helpers.trouble import told

HEADER = Header(
    "plucky-ledger-recording", 1, "test", "id", "2026-11-02T08:00:00+00:00", "UTC", PcFacts()
)
amounts = st.floats(0, 1e12, allow_nan=False)
counts = st.integers(0, 2**53)
sample_lists = st.lists(
    st.builds(SampleLine, st.floats(0, 1e5), amounts, counts, counts, amounts, counts, counts),
    max_size=20,
    unique_by=lambda sample: sample.seconds,
).map(lambda found: sorted(found, key=lambda sample: sample.seconds))
other_lines = st.lists(
    st.builds(MarkLine, st.text(max_size=40), st.floats(-100, 1e5), st.text(max_size=40))
    | st.builds(
        ProgramsLine,
        st.floats(0, 1e5),
        st.lists(
            st.builds(ProgramRow, counts, amounts, counts, st.none() | counts), max_size=4
        ).map(tuple),
        st.lists(counts, max_size=3).map(tuple),
    ),
    max_size=10,
)


def read(data: bytes):
    return read_recording(io.BytesIO(data))


def plain(*lines: object) -> bytes:
    return b"".join(msgspec.json.encode(line) + b"\n" for line in lines)


@pytest.fixture(scope="module")
def whole(tmp_path_factory) -> bytes:
    """The unpacked bytes of a real recording of the stand-in PC."""
    path = tmp_path_factory.mktemp("recording") / "boot.jsonl.gz"
    record_to(path, seed=3, seconds=60.0)
    return gzip.decompress(path.read_bytes())


@pytest.mark.parametrize("ending", ["jsonl", "jsonl.gz"])
@given(samples=sample_lists, others=other_lines)
def test_round_trip_loses_nothing(tmp_path_factory, ending, samples, others):
    """What is written comes back equal, packed or not."""
    path = tmp_path_factory.mktemp("trip") / f"boot.{ending}"
    with RecordingWriter(path) as writer:
        writer.write([HEADER])
        writer.write(others)
        writer.write(samples)
        writer.finish("time was up")
    back = read(path.read_bytes())
    assert back.samples == samples
    assert back.marks == [line for line in others if isinstance(line, MarkLine)]
    assert back.program_readings == [line for line in others if isinstance(line, ProgramsLine)]
    assert (back.end.samples, back.end.lines) == (len(samples), len(samples) + len(others) + 1)


@given(share=st.floats(0, 1))
def test_cut_anywhere_it_keeps_every_whole_line_before(whole, share):
    cut = whole[: int(len(whole) * share)]
    lines = cut.count(b"\n")
    if lines == 0:
        with told("nothing to keep"):
            read(cut)
        return
    back = read(cut)
    assert back.cut_short == (lines < whole.count(b"\n"))
    kept = sum(b'"kind":"sample"' in line for line in cut.split(b"\n")[:lines])
    assert len(back.samples) == kept


@given(share=st.floats(0.05, 1), change=st.binary(min_size=1, max_size=8))
def test_a_damaged_packed_file_gives_a_sentence_or_a_shorter_boot(whole, share, change):
    """Never anything but a recording or a RecordingFault."""
    packed = bytearray(gzip.compress(whole))
    at = int((len(packed) - 1) * share)
    packed[at : at + len(change)] = change
    try:
        back = read(bytes(packed))
    except RecordingFault:
        return
    assert len(back.samples) <= whole.count(b'"kind":"sample"')


@given(st.binary(max_size=400))
def test_made_up_bytes_are_refused_with_a_sentence(data):
    with pytest.raises(RecordingFault):
        read(data)


def test_zstd_is_read_too(whole):
    assert read(zstandard.ZstdCompressor().compress(whole)).samples == read(whole).samples


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (b"", "empty"),
        (b"hello\nworld\n", "Line 1"),
        (plain(MarkLine("ready", 3.0)), "does not begin with the header"),
        (plain(msgspec.structs.replace(HEADER, version=2)), "version 2"),
        (plain(HEADER, HEADER), "Line 2: a second header"),
        (plain(HEADER) + b'{"kind":"sample","seconds":"soon"}\n', "Line 2"),
        (plain(HEADER) + b'{"kind":"mark","name":"ready","seconds":1e99}\n', "Line 2"),
        (plain(HEADER) + b"[" * 100_000 + b"\n", "Line 2"),
        (plain(HEADER) + b"x" * 4_100_000 + b"\n", "longer than 2 MB"),
    ],
)
def test_what_breaks_its_bounds_is_refused_with_line_and_reason(data, why):
    with told(why):
        read(data)


def packed(block: bytes, times: int) -> bytes:
    packer = zlib.compressobj(9, zlib.DEFLATED, 31)
    head = packer.compress(plain(HEADER))
    blocks = b"".join(packer.compress(block) for _ in range(times))
    return head + blocks + packer.flush()


def test_a_small_file_that_unpacks_to_something_gigantic_is_refused():
    """No more than the limit is ever unpacked, let alone kept."""
    block = b'{"kind":"later","text":"%s"}\n' % (b"x" * 100_000) * 100
    with told("larger than 64,000,000 bytes"):
        read(packed(block, 70))


def test_a_file_of_too_many_lines_is_refused(monkeypatch):
    monkeypatch.setattr("plucky_ledger.recording.limits.MOST_LINES", 5_000)
    with told("More than 5,000 lines"):
        read(packed(b'{"kind":"later"}\n' * 1_000, 6))


def test_kinds_of_a_later_version_are_skipped_and_counted(whole):
    first, _, rest = whole.partition(b"\n")
    back = read(first + b'\n{"kind":"temperature","celsius":61.5}\n' + rest)
    assert (back.skipped, len(back.samples)) == (1, len(read(whole).samples))


def test_schema_in_the_docs_is_the_one_in_use_and_real_files_keep_to_it(whole):
    path = Path(__file__).parents[2] / "docs/formats/recording.schema.json"
    assert path.read_text() == schema_text()
    validator = jsonschema.Draft202012Validator(json.loads(path.read_text()))
    for line in whole.splitlines()[::7]:
        validator.validate(json.loads(line))
    assert not validator.is_valid({"kind": "sample", "seconds": "soon"})


def test_an_existing_file_is_never_written_over(tmp_path):
    path = tmp_path / "boot.jsonl"
    path.write_text("precious")
    with told("exists already"):
        RecordingWriter(path)
    assert path.read_text() == "precious"


def test_a_full_disk_stops_recording_and_keeps_what_there_was(tmp_path):
    """The device that is always full stands in for the disk."""
    writer = RecordingWriter(tmp_path / "boot.jsonl")
    writer.write([HEADER, SampleLine(1.0, 1.0, 0, 0, 0.0, 0, 0)])
    full = os.open("/dev/full", os.O_WRONLY)
    os.dup2(full, writer._descriptor)
    os.close(full)
    with told(r"after 1 sample: No space left.*is kept in"):
        writer.write([SampleLine(2.0, 1.0, 0, 0, 0.0, 0, 0)])
    writer.close()
    assert len(read((tmp_path / "boot.jsonl").read_bytes()).samples) == 1


def test_recordings_are_private_to_the_user(tmp_path):
    path = tmp_path / "boot.jsonl.gz"
    RecordingWriter(path).close()
    assert path.stat().st_mode & 0o077 == 0


def test_kill_costs_at_most_the_last_sample(tmp_path):
    """The recorder is killed outright while it records this very machine."""
    path = tmp_path / "boot.jsonl.gz"
    recorder = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "plucky_ledger",
            "record",
            "--for",
            "60",
            "--rate",
            "10",
            "--out",
            str(path),
            "--echo",
        ],
        stdout=subprocess.PIPE,
    )
    decoder = msgspec.json.Decoder(Line)
    heard = 0
    assert recorder.stdout is not None
    while heard < 8:
        heard += isinstance(decoder.decode(recorder.stdout.readline()), SampleLine)
    recorder.send_signal(signal.SIGKILL)
    recorder.wait()
    recorder.stdout.close()
    back = read(path.read_bytes())
    assert back.cut_short
    assert len(back.samples) >= heard - 1


def test_asked_to_stop_the_recorder_ends_the_file_whole(tmp_path):
    path = tmp_path / "boot.jsonl.gz"
    recorder = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "plucky_ledger.__main__",
            "record",
            "--for",
            "60",
            "--out",
            str(path),
        ],
        stdout=subprocess.PIPE,
    )
    while not path.exists() or path.stat().st_size < 500:
        time.sleep(0.02)
    recorder.terminate()
    told, _ = recorder.communicate(timeout=20)
    assert recorder.returncode == 0
    assert b"stopped by hand" in told
    assert not read(path.read_bytes()).cut_short


PACKINGS = {
    "plain": lambda data: data,
    "gzip": lambda data: gzip.compress(data, 6),
    "zstd": lambda data: zstandard.ZstdCompressor().compress(data),
}


@pytest.fixture(scope="module")
def synced(whole):
    """Recordings as they lie on the disk: packed, and handed over sample by sample."""
    packers = {
        "gzip": (zlib.compressobj(6, zlib.DEFLATED, 31), zlib.Z_SYNC_FLUSH),
        "zstd": (zstandard.ZstdCompressor().compressobj(), zstandard.COMPRESSOBJ_FLUSH_BLOCK),
    }
    lines = whole.splitlines(keepends=True)
    disk = {"plain": [(len(line), line) for line in lines]}
    for name, (packer, flush) in packers.items():
        disk[name] = [(len(line), packer.compress(line) + packer.flush(flush)) for line in lines]
    return lambda packing: disk[packing]  # no dictionary: a failing test would print it


@pytest.mark.parametrize("tail", ["zeros", "noise", "lines", "half a sector"])
@pytest.mark.parametrize("packing", ["plain", "gzip", "zstd"])
@given(share=st.floats(0.1, 1), lost=st.floats(0, 1), noise=st.binary(min_size=1, max_size=200))
def test_after_a_power_cut_everything_before_the_damage_is_kept(
    synced, packing, tail, share, lost, noise
):
    """Cut at any length, and the file system has left something behind it."""
    pieces = synced(packing)
    written = max(12, int(share * len(pieces)))
    disk = b"".join(piece for _, piece in pieces[:written])
    cut = int(lost * len(pieces[written - 1][1]))
    disk = disk[: len(disk) - cut]
    disk += {
        "zeros": b"\0" * 5000,
        "noise": noise,
        "lines": b"\n\n{}\n[1]\nnull\n" * 3,
        "half a sector": b"\0" * 117 + b'{"kind":"sample"\n',
    }[tail]
    back = read(disk)
    whole = sum(size for size, _ in pieces[: written - (cut > 0)])
    plain = b"".join(synced("plain")[at][1] for at in range(len(pieces)))[:whole]
    assert len(back.samples) >= plain.count(b'"kind":"sample"')
    assert [sample.seconds for sample in back.samples[:-1]] == [
        sample.seconds for sample in read(plain).samples[: len(back.samples) - 1]
    ]


def test_damage_in_the_middle_keeps_what_comes_before_and_says_where(whole, ledger):
    lines = whole.splitlines(keepends=True)
    lines[40] = lines[40][:10] + b"\xff" + lines[40][11:]
    back = read(b"".join(lines))
    assert back.cut_short
    assert trouble_in_words(back.damage).startswith("Line 41:")
    assert back.samples == read(b"".join(lines[:40])).samples


def test_what_was_told_as_kept_is_synced_beside_the_sampling(tmp_path, monkeypatch):
    """A disk that takes its time does not hold the sampling up; one that fails is noticed."""
    synced, begun, slow = [], threading.Event(), threading.Event()

    def sync(descriptor):
        synced.append(os.fstat(descriptor).st_size)
        begun.set()
        slow.wait(5)

    monkeypatch.setattr(writer_module, "SYNC_SECONDS", 0.0)
    monkeypatch.setattr(os, "fdatasync", sync)
    with RecordingWriter(tmp_path / "boot.jsonl") as writer:
        for second in range(20):
            writer.write([HEADER if second == 0 else SampleLine(second, 1.0, 0, 0, 0.0, 0, 0)])
        assert begun.wait(5)
        assert len(synced) == 1
        slow.set()
        writer.finish("time was up")
    assert synced[-1] == (tmp_path / "boot.jsonl").stat().st_size

    def fails(_descriptor):
        raise OSError(errno.EIO, "Input/output error")

    monkeypatch.setattr(os, "fdatasync", fails)
    with RecordingWriter(tmp_path / "other.jsonl") as writer, told("Input/output error"):
        writer.write([HEADER])
        writer.finish("time was up")


def rows(count):
    return plain(ProgramsLine(1.0, tuple(ProgramRow(n, 0.1, 2**40) for n in range(count))))


def samples(count):
    return [plain(SampleLine(float(n), 0.1, 0, 0, 0.0, 0, 0)) for n in range(1, count + 1)]


PROGRAM = plain(ProgramLine(1, 2, 3, 4, "a", "b", 0, "", 0.0))


@pytest.mark.parametrize(
    ("made", "why"),
    [
        (lambda: [b"\n" * 300_001], "300,000 lines"),
        (lambda: samples(90_001), "90,000 samples"),
        (lambda: [PROGRAM] * 20_001, "20,000 programs"),
        (lambda: [rows(9_000)] * 34, "300,000 readings"),
        (lambda: [PROGRAM] * 10_000 + samples(301), "Programs times samples"),
        (lambda: [plain(NoteLine("\U0001f600" * 1000))] * 3_100, "12,000,000 bytes of text"),
        (
            lambda: [plain(ActivityLine("a", after=("ab",) * 4000))] * 700,
            "12,000,000 bytes of text",
        ),
        (lambda: [b'{"kind":"later","x":"%s"}\n' % (b"x" * 1_000_000)] * 64, "64,000,000 bytes"),
    ],
)
def test_no_recording_holds_more_than_a_boot_can(made, why):
    """Whatever is too many is refused by name. How much memory it takes: make fuzz."""
    data = PACKINGS["zstd"](plain(HEADER) + b"".join(made()))
    with told(why):
        read(data)


@pytest.mark.parametrize("packing", ["gzip", "zstd"])
def test_what_follows_the_first_member_is_not_read(whole, packing):
    packed_whole = PACKINGS[packing](whole)
    bomb = PACKINGS[packing](b"\n" * 80_000_000)
    assert read(packed_whole + bomb).samples == read(whole).samples
    cut_short = whole[: whole.rindex(b"\n", 0, -1) + 1] + b'{"kind":"of tomorrow"}\n' * 20_000
    assert read(PACKINGS[packing](cut_short) + bomb).samples == read(whole).samples


def test_the_recorder_ends_before_its_recording_is_too_large(tmp_path, monkeypatch):
    """What it writes can always be read."""
    monkeypatch.setattr(limits, "MOST_SAMPLES", 10)
    path = tmp_path / "boot.jsonl.gz"
    record_to(path, seed=3, seconds=60.0)
    back = read(path.read_bytes())
    assert (len(back.samples), back.end.reason) == (10, "recording_full")


def test_counters_older_than_the_boot_count_from_the_boot_on(whole):
    """As in a container: the same boot, its machine's counters with a past."""
    as_it_was = read(whole)
    with_a_past = read(whole)
    with_a_past.samples = [
        msgspec.structs.replace(
            sample,
            cpu_seconds=sample.cpu_seconds + 5_000.0,
            disk_read_bytes=sample.disk_read_bytes + 7_000_000_000,
            disk_written_bytes=sample.disk_written_bytes + 9_000_000_000,
            disk_busy_seconds=sample.disk_busy_seconds + 800.0,
        )
        for sample in with_a_past.samples
    ]
    plain_boot, boot = boot_from(as_it_was), boot_from(with_a_past)
    for name in ("cpu_seconds", "disk_read_bytes", "disk_written_bytes", "disk_busy_seconds"):
        grown, grown_too = (getattr(of.timeline.samples, name) for of in (plain_boot, boot))
        assert np.diff(grown_too) == pytest.approx(np.diff(grown), abs=1e-6)
        assert grown_too[0] <= grown[0] + 1.0
    assert boot.boot.readings.keys() == plain_boot.boot.readings.keys()
    assert "had begun before it was started" in in_one_line(boot.boot.context.notes)
    assert ReasonCode.COUNTERS_OLDER not in {note.code for note in plain_boot.boot.context.notes}


def test_a_folder_that_is_not_there_yet_is_waited_for(tmp_path, whole, monkeypatch):
    """As early in a boot, or before a home is opened: nothing recorded meanwhile is lost."""
    monkeypatch.setattr(patient, "LOOK_AGAIN_SECONDS", 0.0)
    path = tmp_path / "home" / "boot.jsonl"
    recording = read(whole)
    with closing(DeferredWriter(lambda: RecordingWriter(path))) as writer:
        writer.write([recording.header, *recording.samples[:5]])
        assert (writer.samples, path.exists()) == (5, False)
        path.parent.mkdir()
        writer.write(recording.samples[5:6])
        assert read(path.read_bytes()).samples == recording.samples[:6]
        writer.write(recording.samples[6:9])
        writer.finish("time_was_up")
    back = read(path.read_bytes())
    assert (back.samples, back.cut_short) == (recording.samples[:9], False)


def test_a_folder_that_never_comes_is_told_in_the_end(tmp_path, whole, monkeypatch):
    monkeypatch.setattr(patient, "LOOK_AGAIN_SECONDS", 0.0)
    recording = read(whole)
    missing = tmp_path / "none" / "boot.jsonl"
    with closing(DeferredWriter(lambda: RecordingWriter(missing))) as writer:
        writer.write([recording.header, *recording.samples[:5]])
        with told("Nothing was recorded"):
            writer.finish("time_was_up")
    existing = tmp_path / "boot.jsonl"
    existing.touch()
    with (
        closing(DeferredWriter(lambda: RecordingWriter(existing))) as writer,
        told("exists already"),
    ):
        writer.write([recording.header])


def test_what_was_accounted_before_a_service_was_stopped_stays_known(whole):
    """Asked again while the PC goes down, a manager has let go of it."""
    recording = read(whole)
    before = ActivityLine("till.service", 1.0, 2.0, 3.0, cpu_seconds=4.0, memory_bytes=5)
    stopped = ActivityLine("till.service", 1.0, 2.0, 3.0, ended_at=90.0, memory_bytes=6)
    recording.activities += [before, stopped]
    did = {one.entry_id: one for one in boot_from(recording).timeline.activities}["till.service"]
    assert (did.cpu_seconds, did.memory_bytes, did.ended_at) == (4.0, 6, 90.0)


def test_without_the_package_that_unpacks_it_the_line_that_installs_it_is_said(whole, monkeypatch):
    packed = zstandard.ZstdCompressor().compress(whole)
    monkeypatch.setitem(sys.modules, "zstandard", None)
    with pytest.raises(RecordingFault) as told:
        read(packed)
    assert told.value.code is TroubleCode.PACKAGE_MISSING
