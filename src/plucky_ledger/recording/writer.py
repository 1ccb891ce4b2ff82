"""Writing a recording: append-only and flushed, so that a kill costs one sample at most."""

import os
import zlib
from collections.abc import Iterable
from pathlib import Path
from types import TracebackType

import msgspec

from plucky_ledger.core.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import open_fresh
from plucky_ledger.recording.lines import EndLine, Line, SampleLine

LEAST_FREE_BYTES = 32_000_000
"""Free space below which recording does not start, or stops: a full disk is worse than no boot."""
LARGEST_BYTES = 64_000_000
"""Size on the disk beyond which a recording is not of one boot any more."""
GZIP_STREAM = 31
"""zlib's window size for a stream with a gzip header."""


class RecordingStopped(Trouble):
    """The recording could not be begun or gone on with."""


class RecordingWriter:
    """Writes lines to a new file that only its owner can read.

    Use as a context manager. A path ending in ``.gz`` is compressed. An existing file is never
    written over.

    Raises:
        RecordingStopped: the folder cannot be written to, or the disk is (nearly) full.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.lines = 0
        self.samples = 0
        self._bytes = 0
        self._encoder = msgspec.json.Encoder()
        self._packer = zlib.compressobj(6, zlib.DEFLATED, GZIP_STREAM) if _packed(path) else None
        self._check_space()
        try:
            self._descriptor = open_fresh(path)
        except FileExistsError as error:
            raise RecordingStopped(TroubleCode.RECORDING_EXISTS, path=str(path)) from error
        except OSError as error:
            raise RecordingStopped(
                TroubleCode.NOTHING_RECORDED, path=str(path), system=error.strerror or ""
            ) from error

    def write(self, lines: Iterable[Line]) -> None:
        """Append lines and hand them to the system at once."""
        written = b""
        for line in lines:
            written += self._encoder.encode(line) + b"\n"
            self.lines += 1
            if isinstance(line, SampleLine):
                self.samples += 1
                if self.samples % 30 == 0:
                    self._check_space()
        self._append(written)

    def finish(self, reason: str) -> None:
        """Write the end record and make sure it is on the disk."""
        self.write([EndLine(self.lines, self.samples, reason)])
        if self._packer:
            self._put(self._packer.flush(zlib.Z_FINISH))
            self._packer = None
        os.fsync(self._descriptor)

    def close(self) -> None:
        """Let go of the file. Without ``finish`` it stays readable, as one cut short."""
        os.close(self._descriptor)

    def __enter__(self) -> "RecordingWriter":
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        traceback: TracebackType | None,
    ) -> None:
        self.close()

    def _append(self, data: bytes) -> None:
        if self._packer:
            data = self._packer.compress(data) + self._packer.flush(zlib.Z_SYNC_FLUSH)
        self._put(data)

    def _put(self, data: bytes) -> None:
        self._bytes += len(data)
        if self._bytes > LARGEST_BYTES:
            raise RecordingStopped(
                TroubleCode.RECORDING_TOO_LARGE,
                samples=self.samples,
                most_bytes=LARGEST_BYTES,
                path=str(self.path),
            )
        while data:
            try:
                data = data[os.write(self._descriptor, data) :]
            except OSError as error:
                raise RecordingStopped(
                    TroubleCode.RECORDING_STOPPED,
                    samples=self.samples,
                    system=error.strerror or "",
                    path=str(self.path),
                ) from error

    def _check_space(self) -> None:
        folder = self.path.parent
        try:
            space = os.statvfs(folder)
        except OSError as error:
            raise RecordingStopped(
                TroubleCode.NOTHING_RECORDED, path=str(folder), system=error.strerror or ""
            ) from error
        free = space.f_bavail * space.f_frsize
        if free < LEAST_FREE_BYTES:
            raise RecordingStopped(
                TroubleCode.DISK_NEARLY_FULL,
                free_bytes=free,
                folder=str(folder),
                path=str(self.path),
                samples=self.samples,
            )


def _packed(path: Path) -> bool:
    return path.suffix == ".gz"
