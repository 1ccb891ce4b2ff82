"""Writing a recording: append-only and flushed, so that a kill costs one sample at most."""

import os
import threading
import time
import zlib
from collections.abc import Iterable
from pathlib import Path
from types import TracebackType

import msgspec

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import open_fresh, sync_folder
from plucky_ledger.recording.limits import LARGEST_FILE, NEARLY, RecordingSize
from plucky_ledger.recording.lines import EndLine, Line, SampleLine

LEAST_FREE_BYTES = 32_000_000
"""Free space below which recording does not start, or stops: a full disk is worse than no boot."""
SYNC_SECONDS = 4.0
"""How much of a recording a power cut can take."""
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
        self.held = RecordingSize()
        self._synced_at = time.monotonic()
        self._syncing: threading.Thread | None = None
        self._sync_failed: OSError | None = None
        self._name_synced = False
        self._bytes = self._samples = 0
        self._encoder = msgspec.json.Encoder()
        self._packer = _packer() if _packed(path) else None
        self._check_space()
        try:
            self._descriptor = open_fresh(path)
        except FileExistsError as error:
            raise RecordingStopped(TroubleCode.RECORDING_EXISTS, path=str(path)) from error
        except OSError as error:
            raise RecordingStopped(
                TroubleCode.NOTHING_RECORDED, path=str(path), system=error.strerror or ""
            ) from error

    @property
    def samples(self) -> int:
        """How many samples were written, whole; the one that a full disk refused is none."""
        return self._samples

    @property
    def nearly_full(self) -> bool:
        """Whether it holds nearly as much as a recording may."""
        return self.held.is_nearly_full or self._bytes > NEARLY * LARGEST_FILE

    def write(self, lines: Iterable[Line]) -> None:
        """Append lines and hand them to the system at once."""
        written = b""
        for line in lines:
            encoded = self._encoder.encode(line)
            self.held.take(line, len(encoded))
            written += encoded + b"\n"
            if isinstance(line, SampleLine) and self.held.samples % 30 == 0:
                self._check_space()
        self._append(written)
        self._samples = self.held.samples
        self._sync_now_and_then()

    def finish(self, reason: str, goes_on: bool = False) -> None:
        """Write the end record and make sure it is on the disk.

        Where it ``goes_on``, a slow look at what comes later follows, to be finished as well; a
        packed file has that in a member of its own.
        """
        self.write([EndLine(self.held.lines, self.samples, reason, goes_on)])
        if self._packer:
            self._put(self._packer.flush(zlib.Z_FINISH))
            self._packer = _packer() if goes_on else None
        self._wait_for_sync()
        self._sync()
        self._raise_if_not_synced()

    def close(self) -> None:
        """Let go of the file. Without ``finish`` it stays readable, as one cut short."""
        self._wait_for_sync()
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
        if self._bytes > LARGEST_FILE:
            raise RecordingStopped(
                TroubleCode.RECORDING_TOO_LARGE,
                samples=self.samples,
                most_bytes=LARGEST_FILE,
                path=str(self.path),
            )
        while data:
            try:
                data = data[os.write(self._descriptor, data) :]
            except OSError as error:
                raise self._stopped(error) from error

    def _sync_now_and_then(self) -> None:
        """Have the disk write what it was given, beside the sampling: a busy disk takes long."""
        if self._syncing is not None and self._syncing.is_alive():
            return
        self._raise_if_not_synced()
        if time.monotonic() >= self._synced_at + SYNC_SECONDS:
            self._synced_at = time.monotonic()
            self._syncing = threading.Thread(target=self._sync, daemon=True)
            self._syncing.start()

    def _sync(self) -> None:
        try:
            os.fdatasync(self._descriptor)
            if not self._name_synced:
                sync_folder(self.path.parent)
                self._name_synced = True
        except OSError as error:
            self._sync_failed = error

    def _wait_for_sync(self) -> None:
        if self._syncing is not None:
            self._syncing.join()
            self._syncing = None

    def _raise_if_not_synced(self) -> None:
        if self._sync_failed is not None:
            raise self._stopped(self._sync_failed)

    def _stopped(self, error: OSError) -> RecordingStopped:
        return RecordingStopped(
            TroubleCode.RECORDING_STOPPED,
            samples=self.samples,
            system=error.strerror or "",
            path=str(self.path),
        )

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


def _packer() -> "zlib._Compress":
    return zlib.compressobj(6, zlib.DEFLATED, GZIP_STREAM)
