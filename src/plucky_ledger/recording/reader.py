"""Reading recordings from anywhere: bounded, forgiving about the end, strict about the rest."""

import zlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, BinaryIO

import msgspec

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.recording.condition import ConditionLine
from plucky_ledger.recording.history import HistoryLine
from plucky_ledger.recording.limits import LONGEST_LINE, RecordingSize
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
    PackagesLine,
    ProgramLine,
    ProgramsLine,
    SampleLine,
    SourceLine,
    StageLine,
)

if TYPE_CHECKING:
    from zstandard import ZstdDecompressionObj

CHUNK = 1 << 17
GZIP = 31
"""zlib's window size for a stream with a gzip header."""
ZSTD_WINDOW = 1 << 25
ZSTD_PIECE = 512
"""Bytes unpacked at once: as many as can become some megabytes, and no more."""
GZIP_MAGIC, ZSTD_MAGIC = b"\x1f\x8b", b"\x28\xb5\x2f\xfd"


class RecordingFault(Trouble):
    """A file that is not a recording this program can take."""


class OutOfBounds(RecordingFault):
    """It holds more than one boot can: nothing of it is kept."""


class CannotUnpack(RecordingFault):
    """The package that unpacks it is not installed."""


@dataclass(kw_only=True)
class Later:
    """The slow look at what came after the recording had ended, as far as there is one."""

    programs: list[ProgramLine] = field(default_factory=list)
    program_readings: list[ProgramsLine] = field(default_factory=list)
    samples: list[SampleLine] = field(default_factory=list)
    end: EndLine | None = None


@dataclass(kw_only=True)
class Recording:
    """The lines of one recording by kind, in file order."""

    header: Header
    context: ContextLine = field(default_factory=ContextLine)
    controls: list[ControlLine] = field(default_factory=list)
    notes: list[NoteLine] = field(default_factory=list)
    marks: list[MarkLine] = field(default_factory=list)
    stages: list[StageLine] = field(default_factory=list)
    entries: list[EntryLine] = field(default_factory=list)
    sources: list[SourceLine] = field(default_factory=list)
    packages: dict[str, str] = field(default_factory=dict)
    condition: ConditionLine | None = None
    history: HistoryLine | None = None
    activities: list[ActivityLine] = field(default_factory=list)
    programs: list[ProgramLine] = field(default_factory=list)
    program_readings: list[ProgramsLine] = field(default_factory=list)
    samples: list[SampleLine] = field(default_factory=list)
    end: EndLine | None = None
    later: Later = field(default_factory=Later)
    skipped: int = 0
    """Lines of kinds this version does not know."""
    damage: RecordingFault | None = None
    """Where the file is damaged; what came before is here."""

    @property
    def cut_short(self) -> bool:
        """Whether the end record is missing, as after a power cut."""
        return self.end is None

    @property
    def goes_on(self) -> bool:
        """Whether a slow look follows the end record, and has not been ended."""
        return self.end is not None and self.end.goes_on and self.later.end is None

    def take(self, line: Line) -> None:
        """Sort one line into its place."""
        if self.end is not None:
            self._take_later(line)
            return
        match line:
            case SampleLine():
                self._check_order(line, self.samples)
                self.samples.append(line)
            case PackagesLine():
                self.packages.update(line.versions)
            case ConditionLine():
                self.condition = line
            case HistoryLine():
                self.history = line
            case ContextLine():
                self.context = _merged(self.context, line)
            case EndLine():
                self.end = line
            case Header():
                raise RecordingFault(TroubleCode.SECOND_HEADER)
            case _:
                getattr(self, _LISTS[type(line)]).append(line)

    def _take_later(self, line: Line) -> None:
        """What follows the end record: of other kinds than these nothing is believed."""
        match line:
            case SampleLine():
                self._check_order(line, self.later.samples or self.samples)
                self.later.samples.append(line)
            case ProgramsLine():
                self.later.program_readings.append(line)
            case ProgramLine():
                self.later.programs.append(line)
            case EndLine():
                self.later.end = line
            case _:
                self.skipped += 1

    def _check_order(self, sample: SampleLine, before: Sequence[SampleLine]) -> None:
        """Samples go forward in time; where they do not, the file was mixed up."""
        if before and sample.seconds <= before[-1].seconds:
            raise RecordingFault(
                TroubleCode.SAMPLES_OUT_OF_ORDER,
                sample=len(before) + 1,
                seconds=sample.seconds,
            )


_LISTS: Mapping[type[msgspec.Struct], str] = {
    ProgramsLine: "program_readings",
    ProgramLine: "programs",
    EntryLine: "entries",
    SourceLine: "sources",
    ActivityLine: "activities",
    MarkLine: "marks",
    StageLine: "stages",
    NoteLine: "notes",
    ControlLine: "controls",
}
"""Where the lines of a kind are listed."""


def _merged(before: ContextLine, later: ContextLine) -> ContextLine:
    """What a later line says replaces what was said before; what it leaves out stays."""
    empty = ContextLine()
    lines_by_kind = {
        name: value
        for name in ContextLine.__struct_fields__
        if (value := getattr(later, name)) != getattr(empty, name)
    }
    return msgspec.structs.replace(before, **lines_by_kind)


def read_recording(file: BinaryIO) -> Recording:
    """Read a whole recording, plain or packed with gzip or zstd.

    A missing end, also in the middle of a line, is not a fault: ``Recording.cut_short`` tells.
    Where the file is damaged, what comes before is kept and nothing that follows is believed.

    Raises:
        RecordingFault: not a recording, of a newer version, out of bounds, or damaged before
            anything was recorded; nothing is kept.
    """
    reading = _Reading()
    try:
        for data in _lines(file, lambda: reading.goes_on):
            reading.take(data)
            if reading.is_whole:
                break
    except (OutOfBounds, CannotUnpack):
        raise
    except RecordingFault as fault:
        reading.stop_at(fault)
    if reading.recording is None:
        raise RecordingFault(TroubleCode.RECORDING_EMPTY)
    return reading.recording


class _Reading:
    """A recording as far as it was read."""

    def __init__(self) -> None:
        self.recording: Recording | None = None
        self._decoder = msgspec.json.Decoder(Line)
        self._held = RecordingSize()

    @property
    def is_whole(self) -> bool:
        """Whether the last end record is there: what follows it is none of ours."""
        return self.recording is not None and not (self.recording.cut_short or self.goes_on)

    @property
    def goes_on(self) -> bool:
        """Whether a slow look follows the end record that was read."""
        return self.recording is not None and self.recording.goes_on

    def take(self, data: bytes) -> None:
        """Take the next line. Raises RecordingFault."""
        line = _decoded(self._decoder, data) if data else None
        if self.recording is None:
            self.recording = Recording(header=_checked_header(line))
        elif line is not None:
            self.recording.take(line)
        elif data:
            self.recording.skipped += 1
        self._held.take(line, len(data))
        if (beyond := self._held.beyond()) is not None:
            raise OutOfBounds(beyond[0], most=beyond[1])

    def stop_at(self, fault: RecordingFault) -> None:
        """Keep what comes before the damage. Raises it where that is nothing.

        A damaged slow look ends there: the recording before it is whole.
        """
        if self.goes_on:
            return
        damage = RecordingFault(TroubleCode.RECORDING_LINE, line=self._held.lines + 1, fault=fault)
        if self.recording is None or not (self.recording.samples or self.recording.marks):
            raise damage from fault
        self.recording.damage = damage


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


def _lines(file: BinaryIO, goes_on: Callable[[], bool]) -> Iterator[bytes]:
    """Whole lines; what follows the last line end is what a power cut left, and is dropped."""
    rest = b""
    for chunk in _unpacked(file, goes_on):
        *whole, rest = (rest + chunk).split(b"\n")
        for line in whole:
            _check_length(line)
            yield line
        _check_length(rest)


def _check_length(line: bytes) -> None:
    if len(line) > LONGEST_LINE:
        raise RecordingFault(TroubleCode.LINE_TOO_LONG, most_bytes=LONGEST_LINE)


def _unpacked(file: BinaryIO, goes_on: Callable[[], bool]) -> Iterator[bytes]:
    """Chunks of at most a few MB, whatever the packing; a broken stream just ends early."""
    head = file.read(CHUNK)
    if head[:2] == GZIP_MAGIC:
        return _gunzipped(head, file, goes_on)
    if head[:4] == ZSTD_MAGIC:
        return _unzstd(file)
    return _plain(head, file)


def _plain(head: bytes, file: BinaryIO) -> Iterator[bytes]:
    while head:
        yield head
        head = file.read(CHUNK)


def _gunzipped(head: bytes, file: BinaryIO, goes_on: Callable[[], bool]) -> Iterator[bytes]:
    """What the first member holds, and the next where it ``goes_on``; the rest is none of ours."""
    unpacker = zlib.decompressobj(GZIP)
    while head:
        before = unpacker.copy()
        try:
            yield unpacker.decompress(head, CHUNK)
            while unpacker.unconsumed_tail and not unpacker.eof:
                before, head = unpacker.copy(), unpacker.unconsumed_tail
                yield unpacker.decompress(head, CHUNK)
        except zlib.error:
            # A failing call gives back nothing of what came before: once more, byte by byte.
            yield _until(zlib.error, before.decompress, head)
            return
        if not unpacker.eof:
            head = file.read(CHUNK)
        elif goes_on():
            head, unpacker = unpacker.unused_data or file.read(CHUNK), zlib.decompressobj(GZIP)
        else:
            return


def _until(damaged: type[Exception], unpack: Callable[[bytes], bytes], packed: bytes) -> bytes:
    """What comes out byte by byte until the damage."""
    kept = bytearray()
    with suppress(damaged):
        for at in range(len(packed)):
            kept += unpack(packed[at : at + 1])
    return bytes(kept)


def _unzstd(file: BinaryIO) -> Iterator[bytes]:
    """What the first frame holds; what follows it is none of ours."""
    try:
        from zstandard import ZstdDecompressor, ZstdError
    except ModuleNotFoundError as error:
        raise CannotUnpack(
            TroubleCode.PACKAGE_MISSING, package="zstandard", extra="zstd"
        ) from error

    def unpacker() -> "ZstdDecompressionObj":
        file.seek(0)
        return ZstdDecompressor(max_window_size=ZSTD_WINDOW).decompressobj()

    frame, pieces = unpacker(), 0
    try:
        while not frame.eof and (packed := file.read(ZSTD_PIECE)):
            yield frame.decompress(packed)
            pieces += 1
    except ZstdError:
        # A failing call gives back nothing of what came before: once more, and then byte by byte.
        frame = unpacker()
        for _ in range(pieces):
            frame.decompress(file.read(ZSTD_PIECE))
        yield _until(ZstdError, frame.decompress, file.read(ZSTD_PIECE))
