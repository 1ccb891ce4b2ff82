"""A night shift: what is measured, until when, and how the last one stands."""

from PySide6.QtCore import QTime
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QSpinBox, QTimeEdit

from plucky_ledger.core.pc.arming import MOST_BOOTS
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.jobs.clock import next_time
from plucky_ledger.usecases.recording.arming import restart
from plucky_ledger.usecases.recording.night_report import NightReport, report
from plucky_ledger.usecases.recording.night_shift import Night, begin, choose, stop
from plucky_ledger.usecases.recording.pcs import pc_of
from plucky_ledger.wording.language import say
from plucky_ledger.wording.night import measured, notice, standing
from plucky_ledger.wording.reasons import in_one_line


class NightPanel(Panel):
    """The PC on the bench restarts itself through a series of states; in the morning every entry's
    cost is measured.
    """

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            say("Night shift"),
            say(
                "The PC restarts itself with other entries switched off in each boot, and "
                "records every boot: what is pencilled first, then the costliest. It ends when "
                "every cost is known exactly enough. In the morning the Verdict shows what each "
                "entry costs. However it ends, the PC is as it was before. Guarded entries stay "
                "on."
            ),
        )
        self._desk = desk
        self._night: Night | None = None
        self.boots = QSpinBox()
        self.boots.setRange(2, MOST_BOOTS)
        self.boots.setValue(24)
        self.boots.setAccessibleName(say("Boots"))
        self.boots.valueChanged.connect(self._show_night)
        self.limited = QCheckBox(say("until"))
        self.limited.setChecked(True)
        self.until = QTimeEdit(QTime(7, 0))
        self.until.setAccessibleName(say("Stop at the latest at"))
        self.limited.toggled.connect(self.until.setEnabled)
        row = QHBoxLayout()
        for widget in (self.boots, Text(say("boots,")), self.limited, self.until):
            row.addWidget(widget)
        row.addStretch(1)
        self.body.addLayout(row)
        self.measured, self.ends, self.standing = Text(), Text(), Text()
        for text in (self.measured, self.ends, self.standing):
            text.setWordWrap(True)
            self.body.addWidget(text)
        self.ends.setProperty("bad", True)
        self.standing.setProperty("quiet", True)
        self.body.addStretch(1)
        self.add_button(say("Cancel")).clicked.connect(self.leave)
        self.stop_button = self.add_button(say("Stop it"))
        self.stop_button.clicked.connect(self.stop)
        self.begin_button = self.add_button(say("Begin and restart"), main=True)
        self.begin_button.clicked.connect(self.start)

    def begin(self) -> None:
        """Look at what could be measured on this PC, and how the last night shift stands."""
        job, shop = self._desk.job, self._desk.workshop
        if job is None:
            return
        self.refuse(None)
        self._night = None
        self.begin_button.setEnabled(False)
        self.measured.setText(say("Checking what can be switched…"))
        self.ends.setText("")
        number, boots = job.number, self.boots.value()
        self._desk.executor.run(lambda _errand: report(), self._reported)
        self._desk.executor.run(
            lambda _errand: (
                choose(shop.ledger, number, shop.costs, boots),
                pc_of(job).restart_ends(),
            ),
            self._chosen,
            self._not_chosen,
        )

    def _reported(self, told: NightReport | None) -> None:
        self.standing.setText(standing(told))
        self.stop_button.setVisible(told is not None and told.ended is None)

    def _chosen(self, found: tuple[Night, tuple[Reason, ...]]) -> None:
        self._night, ends = found
        self.ends.setText(in_one_line(ends))
        self.begin_button.setEnabled(self._desk.writable)
        self._show_night()

    def _not_chosen(self, error: Exception) -> None:
        self.measured.setText("")
        self._desk.door.trouble(error)

    def _show_night(self) -> None:
        if self._night is not None:
            self._night = self._night.with_boots(self.boots.value())
            self.measured.setText(measured(self._night))

    def start(self) -> None:
        """Begin it: somebody may be asked for a password; then the PC restarts."""
        job, shop, night = self._desk.job, self._desk.workshop, self._night
        if job is None or night is None:
            return
        number, chosen = job.number, self.until.time()
        until = next_time(chosen.hour(), chosen.minute()) if self.limited.isChecked() else None
        self.begin_button.setEnabled(False)

        def work() -> None:
            begin(shop.ledger, shop.place, number, night, until, notice())
            restart(shop.ledger, number)

        self._desk.executor.run(lambda _errand: work(), lambda _none: self.leave(), self._failed)

    def _failed(self, error: Exception) -> None:
        self.begin_button.setEnabled(True)
        self._desk.door.trouble(error)

    def stop(self) -> None:
        """Stop it: within seconds everything is put back."""
        self._desk.executor.run(lambda _errand: stop(), lambda _none: self.begin(), self._failed)
