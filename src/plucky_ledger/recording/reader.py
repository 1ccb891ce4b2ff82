"""Reading recordings from anywhere: bounded, forgiving about the end, strict about the rest."""

import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import BinaryIO

import msgspec

from plucky_ledger.core.trouble import Trouble, TroubleCode
from plucky_ledger.recording.lines import (
    FORMAT,
    KINDS,
    VERSION,
    ActivityLine,
    ContextLine,
    ControlLine,
    EndLine,
    EntryLine,
    Header,
    Line,
    MarkLine,
    NoteLine,
    ProgramLine,
    ProgramsLine,
    SampleLine,
    StageLine,
)

LONGEST_LINE = 4_000_000
"""Bytes. A line of readings for 20,000 program runs is about half of this."""
LARGEST_FILE = 600_000_000
"""Bytes after unpacking: some hours at ten samples a second."""
MOST_LINES = 2_000_000
CHUNK = 1 << 18
GZIP_MAGIC, ZSTD_MAGIC = b"\x1f\x8b", b"\x28\xb5\x2f\xfd"


class RecordingFault(Trouble):
    """A file that is not a recording this program can take."""


@dataclass
class Recording:
    """The lines of one recording by kind, in file order."""

    header: Header
    context: ContextLine = field(default_factory=ContextLine)
    controls: list[ControlLine] = field(default_factory=list)
    notes: list[NoteLine] = field(default_factory=list)
    marks: list[MarkLine] = field(default_factory=list)
    stages: list[StageLine] = field(default_factory=list)
    entries: list[EntryLine] = field(default_factory=list)
    activities: list[ActivityLine] = field(default_factory=list)
    programs: list[ProgramLine] = field(default_factory=list)
    program_readings: list[ProgramsLine] = field(default_factory=list)
    samples: list[SampleLine] = field(default_factory=list)
    end: EndLine | None = None
    skipped: int = 0
    """Lines of kinds this version does not know."""

    @property
    def cut_short(self) -> bool:
        """Whether the end record is missing, as after a power cut."""
        return self.end is None

    def take(self, line: Line) -> None:  # noqa: C901 one case a kind of line
        """Sort one line into its place."""
        match line:
            case SampleLine():
                self.samples.append(line)
            case ProgramsLine():
                self.program_readings.append(line)
            case ProgramLine():
                self.programs.append(line)
            case EntryLine():
                self.entries.append(line)
            case ActivityLine():
                self.activities.append(line)
            case MarkLine():
                self.marks.append(line)
            case StageLine():
                self.stages.append(line)
            case NoteLine():
                self.notes.append(line)
            case ContextLine():
                self.context = _merged(self.context, line)
            case ControlLine():
                self.controls.append(line)
            case EndLine():
                self.end = line
            case Header():
                raise RecordingFault(TroubleCode.SECOND_HEADER)


def _merged(before: ContextLine, later: ContextLine) -> ContextLine:
    """What a later line says replaces what was said before; what it leaves out stays."""
    empty = ContextLine()
    known = {
        name: value
        for name in ContextLine.__struct_fields__
        if (value := getattr(later, name)) != getattr(empty, name)
    }
    return msgspec.structs.replace(before, **known)


def read_recording(file: BinaryIO) -> Recording:
    """Read a whole recording, plain or packed with gzip or zstd.

    A missing end, also in the middle of a line, is not a fault: ``Recording.cut_short`` tells.

    Raises:
        RecordingFault: not a recording, of a newer version, or out of bounds; nothing is kept.
    """
    decoder = msgspec.json.Decoder(Line)
    recording: Recording | None = None
    for number, data in enumerate(_lines(file), 1):
        try:
            line = _decoded(decoder, data)
            if recording is None:
                recording = Recording(_checked_header(line))
            elif line is None:
                recording.skipped += 1
            else:
                recording.take(line)
        except RecordingFault as fault:
            raise RecordingFault(TroubleCode.RECORDING_LINE, line=number, fault=fault) from fault
        if number > MOST_LINES:
            raise RecordingFault(TroubleCode.TOO_MANY_LINES, most=MOST_LINES)
    if recording is None:
        raise RecordingFault(TroubleCode.RECORDING_EMPTY)
    _check_order(recording)
    return recording


def _decoded(decoder: "msgspec.json.Decoder[Line]", data: bytes) -> Line | None:
    """The line, or None for a kind that a later version may know."""
    try:
        return decoder.decode(data)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        if _kind_of(data) in KINDS:
            raise RecordingFault(TroubleCode.BAD_LINE, told=str(error)) from error
        if _kind_of(data) is None:
            raise RecordingFault(TroubleCode.UNKNOWN_LINE) from error
        return None


def _kind_of(data: bytes) -> str | None:
    try:
        fields = msgspec.json.decode(data, type=dict[str, msgspec.Raw])
        return msgspec.json.decode(fields["kind"], type=str)
    except (msgspec.DecodeError, KeyError, UnicodeDecodeError, RecursionError):
        return None


def _checked_header(line: Line | None) -> Header:
    if not isinstance(line, Header) or line.format != FORMAT:
        raise RecordingFault(TroubleCode.NO_HEADER)
    if line.version > VERSION or line.version < 1:
        raise RecordingFault(TroubleCode.NEWER_RECORDING, version=line.version, reads=VERSION)
    return line


def _check_order(recording: Recording) -> None:
    """Samples go forward in time; where they do not, the file was tampered with or mixed up."""
    before = float("-inf")
    for index, sample in enumerate(recording.samples, 1):
        if sample.seconds <= before:
            raise RecordingFault(
                TroubleCode.SAMPLES_OUT_OF_ORDER, sample=index, seconds=sample.seconds
            )
        before = sample.seconds


def _lines(file: BinaryIO) -> Iterator[bytes]:
    """Whole lines; what follows the last line end is what a power cut left, and is dropped."""
    rest, total = b"", 0
    for chunk in _unpacked(file):
        total += len(chunk)
        if total > LARGEST_FILE:
            raise RecordingFault(TroubleCode.UNPACKED_TOO_LARGE, most_bytes=LARGEST_FILE)
        *whole, rest = (rest + chunk).split(b"\n")
        if len(rest) > LONGEST_LINE or any(len(line) > LONGEST_LINE for line in whole):
            raise RecordingFault(TroubleCode.LINE_TOO_LONG, most_bytes=LONGEST_LINE)
        yield from (line for line in whole if line)


def _unpacked(file: BinaryIO) -> Iterator[bytes]:
    """Chunks of at most a few MB, whatever the packing; a broken stream just ends early."""
    head = file.read(CHUNK)
    if head[:2] == GZIP_MAGIC:
        return _gunzipped(head, file)
    if head[:4] == ZSTD_MAGIC:
        return _unzstd(file)
    return _plain(head, file)


def _plain(head: bytes, file: BinaryIO) -> Iterator[bytes]:
    while head:
        yield head
        head = file.read(CHUNK)


def _gunzipped(head: bytes, file: BinaryIO) -> Iterator[bytes]:
    unpacker = zlib.decompressobj(31)
    while head:
        try:
            yield unpacker.decompress(head, CHUNK)
            while unpacker.unconsumed_tail:
                yield unpacker.decompress(unpacker.unconsumed_tail, CHUNK)
        except zlib.error:
            return
        head = file.read(CHUNK)
    yield unpacker.flush()


def _unzstd(file: BinaryIO) -> Iterator[bytes]:
    import zstandard

    file.seek(0)
    with zstandard.ZstdDecompressor(max_window_size=1 << 27).stream_reader(file) as stream:
        while True:
            try:
                chunk = stream.read(CHUNK)
            except zstandard.ZstdError:
                return
            if not chunk:
                return
            yield chunk
