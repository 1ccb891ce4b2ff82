"""Background threads of the window: one lane writes, two read, one computes, in order within a
lane.

Everything comes back on the thread the executor was made on. After ``close`` nothing comes back at
all, at whatever moment it was called.
"""

import logging
import queue
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

LEISURE_MILLISECONDS = 500
"""How long work that nobody waits for lets the window get itself ready first."""
READERS = 2
log = logging.getLogger(__name__)

Answer = Callable[[Any], None]


@dataclass(frozen=True)
class _Delivery:
    """Something to be handed over on the executor's thread."""

    take: Answer
    what: Any


class _Inbox(QObject):
    """Carries deliveries to the thread it lives on."""

    arrived = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.closed = False
        """Whoever asked is gone; what is still under way to here is dropped."""
        self.arrived.connect(self._hand_over)

    def _hand_over(self, delivery: _Delivery) -> None:
        if not self.closed:
            delivery.take(delivery.what)


class Errand:
    """Long work that reports on the way and can be asked to end."""

    def __init__(self, executor: "Executor", report: Answer | None) -> None:
        self._executor = executor
        self._report = report
        self._stop = threading.Event()

    @property
    def going_on(self) -> bool:
        """Whether the work shall go on; asked from its thread."""
        return not self._stop.is_set()

    def stop(self) -> None:
        """Ask the work to end at its next convenience."""
        self._stop.set()

    def tell(self, something: object) -> None:
        """Report from the work's thread."""
        if self._report is not None:
            self._executor._deliver(self._report, something)


class _Lane:
    """Threads that take work in the order it was asked for."""

    def __init__(self, name: str, threads: int) -> None:
        self._waiting: queue.SimpleQueue[Callable[[], None] | None] = queue.SimpleQueue()
        self._threads = [
            threading.Thread(target=self._run, name=f"{name}-{index}", daemon=True)
            for index in range(threads)
        ]
        for thread in self._threads:
            thread.start()

    def add(self, work: Callable[[], None]) -> None:
        self._waiting.put(work)

    def close(self) -> None:
        """No more is taken after what is waiting."""
        for _ in self._threads:
            self._waiting.put(None)

    def has(self, thread: threading.Thread) -> bool:
        """Whether this is one of its threads."""
        return thread in self._threads

    def wait(self, seconds: float) -> bool:
        """Wait until all is done; False when time was up."""
        deadline = time.monotonic() + seconds
        for thread in self._threads:
            thread.join(max(0.0, deadline - time.monotonic()))
        return not any(thread.is_alive() for thread in self._threads)

    def _run(self) -> None:
        while (work := self._waiting.get()) is not None:
            work()


class Executor:
    """Does work on threads of its own and hands the results over on this one."""

    def __init__(self, failed: Callable[[Exception], None]) -> None:
        self._failed = failed
        """Takes what was raised, where whoever asked does not."""
        self._inbox = _Inbox()
        self._lock = threading.Lock()
        self._newest: dict[str, int] = {}
        """Number of the newest question under each key: older answers are dropped."""
        self._errands: set[Errand] = set()
        self._writer = _Lane("writer", 1)
        self._readers = _Lane("reader", READERS)
        self._reckoner = _Lane("reckoner", 1)
        self._runner = _Lane("runner", 2)
        self._asker = _Lane("asker", 1)

    def may_write(self) -> bool:
        """Whether the thread that asks may write in a ledger: of ours the writer's alone."""
        others = (self._readers, self._reckoner, self._runner, self._asker)
        return not any(lane.has(threading.current_thread()) for lane in others)

    def write(self, work: Callable[[], Any], done: Answer, failed: Answer) -> None:
        """Write something; what is asked for later is written later."""
        self._start(self._writer, work, done, failed, lambda: True)

    def ask(self, key: str, work: Callable[[], Any], done: Answer) -> None:
        """Read something. Only the newest question under a key is answered."""
        self._start_newest(self._readers, key, work, done)

    def ask_the_pc(self, key: str, work: Callable[[], Any], done: Answer) -> None:
        """The same of a PC, which may keep silent for long: nothing else waits for it."""
        self._start_newest(self._asker, key, work, done)

    def work_out(
        self,
        key: str,
        work: Callable[[], Any],
        done: Answer,
        at_leisure: bool = False,
        failed: Answer | None = None,
    ) -> None:
        """Work out what takes long, one after the other. Only the newest under a key is answered.

        ``at_leisure``: nobody is waiting for it, so the window gets itself ready first.
        """
        number = self._number(key)

        def begin() -> None:
            if self._newest[key] == number:
                newest = self._is_newest(key, number)
                self._start(self._reckoner, work, done, failed or self._failed, newest)

        QTimer.singleShot(LEISURE_MILLISECONDS if at_leisure else 0, self._inbox, begin)

    def run(
        self,
        work: Callable[[Errand], Any],
        done: Answer,
        failed: Answer | None = None,
        report: Answer | None = None,
    ) -> Errand:
        """Do something long that reports on the way; it is asked to end when all closes."""
        errand = Errand(self, report)
        self._errands.add(errand)

        def ended(take: Answer) -> Answer:
            def hand_over(what: Any) -> None:
                self._errands.discard(errand)
                take(what)

            return hand_over

        over = ended(failed or self._failed)
        self._start(self._runner, lambda: work(errand), ended(done), over, lambda: True)
        return errand

    def _start_newest(self, lane: _Lane, key: str, work: Callable[[], Any], done: Answer) -> None:
        newest = self._is_newest(key, self._number(key))
        self._start(lane, work, done, self._failed, newest)

    def _number(self, key: str) -> int:
        self._newest[key] = self._newest.get(key, 0) + 1
        return self._newest[key]

    def _is_newest(self, key: str, number: int) -> Callable[[], bool]:
        return lambda: self._newest[key] == number

    def _start(
        self,
        lane: _Lane,
        work: Callable[[], Any],
        done: Answer,
        failed: Answer,
        wanted: Callable[[], bool],
    ) -> None:
        """Put work on a lane; its result is handed over while it is ``wanted``."""

        def attempt() -> None:
            if not wanted():
                return
            try:
                result = work()
            except Exception as error:  # noqa: BLE001 handed to whoever asked for the work
                self._deliver(failed, error)
            else:
                self._deliver(lambda what: done(what) if wanted() else None, result)

        lane.add(attempt)

    def _deliver(self, take: Answer, what: Any) -> None:
        """Hand something over, unless whoever asked is gone; called from any thread."""
        with self._lock:
            if not self._inbox.closed:
                self._inbox.arrived.emit(_Delivery(take, what))

    def close(self, seconds: float) -> None:
        """Ask all work to end, and wait so long for it; what waits to be written comes first.

        Nothing comes back after this. What does not end in time is left to end with the program.
        """
        with self._lock:
            self._inbox.closed = True
        for errand in self._errands:
            errand.stop()
        lanes = (self._writer, self._readers, self._reckoner, self._runner, self._asker)
        for lane in lanes:
            lane.close()
        deadline = time.monotonic() + seconds
        if not all(lane.wait(max(0.0, deadline - time.monotonic())) for lane in lanes):
            log.info("work was still going on when the window closed")
