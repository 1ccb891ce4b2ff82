"""A recording writer that waits for its folder: early in a boot, or before a home is unlocked."""

import time
from collections.abc import Callable, Iterable

import msgspec

from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.recording.limits import RecordingSize
from plucky_ledger.recording.lines import Line
from plucky_ledger.recording.writer import RecordingStopped, RecordingWriter

LOOK_AGAIN_SECONDS = 1.0


class DeferredWriter:
    """Keeps lines in memory until their file can be written, and writes them then.

    Raises:
        RecordingStopped: as ``RecordingWriter``; in the end also where there never was a folder.
    """

    def __init__(self, opened: Callable[[], RecordingWriter]) -> None:
        self._opened = opened
        self._writer: RecordingWriter | None = None
        self._kept: list[Line] = []
        self._held = RecordingSize()
        self._encoder = msgspec.json.Encoder()
        self._look_again_at = 0.0

    @property
    def samples(self) -> int:
        """How many samples there are so far."""
        return self._writer.samples if self._writer else self._held.samples

    @property
    def nearly_full(self) -> bool:
        """Whether it holds nearly as much as a recording may."""
        return self._writer.nearly_full if self._writer else self._held.is_nearly_full

    def write(self, lines: Iterable[Line]) -> None:
        """Append lines, or keep them."""
        if self._writer is not None:
            self._writer.write(lines)
            return
        for line in lines:
            self._held.take(line, len(self._encoder.encode(line)))
            self._kept.append(line)
        if time.monotonic() >= self._look_again_at:
            self._look_again_at = time.monotonic() + LOOK_AGAIN_SECONDS
            self._try_to_open(last=False)

    def finish(self, reason: str, goes_on: bool = False) -> None:
        """Write the end record and make sure it is on the disk; see ``RecordingWriter``."""
        if self._writer is None:
            self._try_to_open(last=True)
        assert self._writer is not None
        self._writer.finish(reason, goes_on)

    def _try_to_open(self, last: bool) -> None:
        try:
            self._writer = self._opened()
        except RecordingStopped as trouble:
            if last or trouble.code is not TroubleCode.NOTHING_RECORDED:
                raise
        else:
            self._writer.write(self._kept)
            self._kept.clear()

    def close(self) -> None:
        """Let go of the file. Without ``finish`` it stays readable, as one cut short."""
        if self._writer is not None:
            self._writer.close()
