"""A watchdog on the window's thread: how long it takes for each event, in its own CPU time."""

import time
from contextlib import contextmanager
from dataclasses import dataclass, field

from PySide6.QtWidgets import QApplication


@dataclass
class Stretches:
    """What the thread was busy with while somebody watched."""

    longest: float = 0.0
    """CPU seconds of the longest."""
    wall: float = 0.0
    """How long that took by the clock, which others on the machine have a share in."""
    of: str = ""
    """Event and receiver of the longest."""
    seen: list[float] = field(default_factory=list)


class WatchedApplication(QApplication):
    """Times every event that it delivers, while it is watched."""

    watched: Stretches | None = None
    _depth = 0

    def notify(self, receiver, event):
        watched = self.watched
        if watched is None or self._depth:
            return super().notify(receiver, event)
        self._depth += 1
        begin, wall = time.thread_time(), time.perf_counter()
        kind = event.type()
        try:
            return super().notify(receiver, event)
        finally:
            self._depth -= 1
            took = time.thread_time() - begin
            watched.seen.append(took)
            if took > watched.longest:
                watched.longest, watched.wall = took, time.perf_counter() - wall
                watched.of = f"{kind.name} to {type(receiver).__name__}"

    @contextmanager
    def watching(self):
        """Watch meanwhile."""
        self.watched = Stretches()
        try:
            yield self.watched
        finally:
            self.watched = None
