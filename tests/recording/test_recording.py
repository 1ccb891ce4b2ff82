"""Recording files: nothing is lost on the way, and no file can do harm."""

import gzip
import io
import json
import os
import signal
import subprocess
import sys
import time
import zlib
from pathlib import Path

import jsonschema
import msgspec
import pytest
import zstandard
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.recording.lines import (
    Header,
    Line,
    MarkLine,
    PcFacts,
    ProgramRow,
    ProgramsLine,
    SampleLine,
)
from plucky_ledger.recording.reader import RecordingFault, read_recording
from plucky_ledger.recording.schema import schema_text
from plucky_ledger.recording.writer import RecordingWriter
from tests.helpers.standin import record_to
from tests.helpers.trouble import told

HEADER = Header("plucky-ledger-recording", 1, "test", "id", "2026-11-02T08:00:00+00:00", "UTC",
                PcFacts())  # fmt: skip
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
        st.lists(st.builds(ProgramRow, counts, amounts, counts, st.none() | counts), max_size=4)
        .map(tuple),
        st.lists(counts, max_size=3).map(tuple),
    ),
    max_size=10,
)  # fmt: skip


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
        (plain(HEADER) + b"x" * 4_100_000 + b"\n", "longer than 4 MB"),
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
    with told("larger than 600 MB"):
        read(packed(block, 70))


def test_a_file_of_too_many_lines_is_refused(monkeypatch):
    monkeypatch.setattr("plucky_ledger.recording.reader.MOST_LINES", 5_000)
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
    with told(r"after 2 samples: No space left.*is kept in"):
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
        [sys.executable, "-m", "plucky_ledger", "record", "--for", "60", "--rate", "10",
         "--out", str(path), "--echo"],
        stdout=subprocess.PIPE,
    )  # fmt: skip
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
