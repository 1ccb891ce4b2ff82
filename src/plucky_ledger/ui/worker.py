"""Long work off the GUI thread: one helper, with progress, cooperative stop and a bounded wait."""

import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

Work = Callable[["Task"], Any]


class Task(QObject):
    """One piece of work.

    Signals (all received on the thread the task was made on):
        done(object): the result.
        failed(object): the exception.
        told(object): whatever the work passed to ``tell`` on the way.
    """

    done = Signal(object)
    failed = Signal(object)
    told = Signal(object)

    def __init__(self, work: Work) -> None:
        super().__init__()
        self._work = work
        self._stop = threading.Event()

    @property
    def stopping(self) -> bool:
        """Whether the work was asked to end; called from the worker's thread."""
        return self._stop.is_set()

    def stop(self) -> None:
        """Ask the work to end at its next convenience."""
        self._stop.set()

    def wait(self, seconds: float) -> bool:
        """Pause the work; called from its thread. False when it was asked to stop."""
        return not self._stop.wait(seconds)

    def tell(self, something: object) -> None:
        """Report from the worker's thread."""
        self.told.emit(something)

    def run(self) -> None:
        """Do the work on the calling thread."""
        try:
            result = self._work(self)
        except Exception as error:  # noqa: BLE001 handed to whoever asked for the work
            self.failed.emit(error)
        else:
            self.done.emit(result)


class _Runner(QRunnable):
    def __init__(self, task: Task) -> None:
        super().__init__()
        self._task = task

    def run(self) -> None:
        self._task.run()


class Workers:
    """A pool of threads. With one thread the tasks are done in the order they were asked for."""

    def __init__(self, threads: int) -> None:
        self._pool = QThreadPool()
        self._pool.setMaxThreadCount(threads)
        self._open: set[Task] = set()
        self._finished = False

    def start(
        self,
        work: Work,
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
        told: Callable[[Any], None] | None = None,
    ) -> Task:
        """Do ``work`` on a thread of the pool and hand its result to ``done`` on this one."""
        task = Task(work)
        self._open.add(task)
        task.done.connect(lambda _result: self._open.discard(task))
        task.failed.connect(lambda _error: self._open.discard(task))
        task.done.connect(self._while_open(done))
        task.failed.connect(self._while_open(failed))
        if told is not None:
            task.told.connect(self._while_open(told))
        self._pool.start(_Runner(task))
        return task

    def _while_open(self, take: Callable[[Any], None]) -> Callable[[Any], None]:
        """Hand an answer on, unless whoever asked is gone: it may come after the window closed."""
        return lambda answer: None if self._finished else take(answer)

    def finish(self, seconds: float = 5.0) -> None:
        """Ask everything to end and wait for it, for a limited time; later answers are dropped."""
        self._finished = True
        for task in self._open:
            task.stop()
        self._pool.waitForDone(int(seconds * 1000))
