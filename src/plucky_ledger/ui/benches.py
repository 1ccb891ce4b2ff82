"""What other benches write in a ledger that is shared, shown within a second."""

from PySide6.QtCore import QObject, QTimer, Signal

from plucky_ledger.ui.desk import Desk

GATHER_MILLISECONDS = 150
"""What is written at once is shown at once."""


class Benches(QObject):
    """Listens to a ledger, and has the desk show what came of it.

    Signals:
        told(int): another bench has written in a job; 0 for the whole workshop.
    """

    told = Signal(int)

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._desk = desk
        self._jobs: set[int] = set()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(GATHER_MILLISECONDS)
        self._timer.timeout.connect(self._show)
        self.told.connect(self._gather)
        desk.ledger.listen(lambda job: self.told.emit(job or 0))

    def _gather(self, job: int) -> None:
        self._jobs.add(job)
        if not self._timer.isActive():
            self._timer.start()

    def _show(self) -> None:
        jobs, self._jobs = self._jobs, set()
        open_one = self._desk.job
        is_whole = 0 in jobs or (open_one is not None and open_one.number in jobs)
        self._desk.others_wrote(open_one.number if is_whole and open_one is not None else -1)
