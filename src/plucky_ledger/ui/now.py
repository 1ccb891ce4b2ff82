"""Reading this PC while somebody looks: once a second, paused when wished, else not at all."""

from PySide6.QtCore import QObject, Signal

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.executor import Errand
from plucky_ledger.usecases.reading.live_load import watch
from plucky_ledger.wording.trouble import trouble_in_words


class Now(QObject):
    """The last seconds of this PC.

    Signals:
        read(): there is a newer ``analysis``, or ``trouble`` with it.
        changed(): it is paused, or goes on.
    """

    read = Signal()
    changed = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._job: int | None = None
        self._errand: Errand | None = None
        self.analysis: Analysis | None = None
        self.trouble = ""
        self.paused = False

    def look_at(self, job: Job | None) -> None:
        """Read a job's PC from now on; none, while it is not shown."""
        number = job.number if job is not None else None
        if number == self._job:
            return
        self._stop()
        self._job, self.analysis, self.trouble, self.paused = number, None, "", False
        if number is not None:
            self._start(number)

    def toggle(self) -> None:
        """Pause, or go on."""
        self.paused = not self.paused
        if self.paused:
            self._stop()
        elif self._job is not None:
            self._start(self._job)
        self.changed.emit()
        self.read.emit()

    def _start(self, number: int) -> None:
        ledger = self._desk.ledger

        def told(analysis: Analysis) -> None:
            if errand is self._errand:
                self.analysis = analysis
                self.read.emit()

        def failed(error: Exception) -> None:
            if errand is self._errand:
                self._errand = None
                if isinstance(error, Trouble):
                    self.trouble = trouble_in_words(error)
                else:
                    self._desk.door.trouble(error)
                self.read.emit()

        errand = self._desk.executor.run(
            lambda errand: watch(ledger, number, lambda: errand.going_on, errand.tell),
            lambda _none: None,
            failed,
            told,
        )
        self._errand = errand

    def _stop(self) -> None:
        if self._errand is not None:
            self._errand.stop()
            self._errand = None
