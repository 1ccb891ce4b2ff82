"""From which share an entry is heavy, moderate or light."""

from PySide6.QtWidgets import QDoubleSpinBox

from plucky_ledger.core.replay.grades import Grade, GradeThresholds
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel, form
from plucky_ledger.usecases.reading.grades import set_thresholds, thresholds
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say

GRADES = (Grade.HEAVY, Grade.MODERATE, Grade.LIGHT)


class GradesPanel(Panel):
    """Three shares, in percent."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            say("Grades"),
            say(
                "An entry's grade follows the larger of two shares: its seconds of settled, or "
                "its memory of the PC's memory. Below light, an entry is negligible."
            ),
        )
        self._desk = desk
        self.fields = {grade: _percent(label(grade)) for grade in GRADES}
        rows = form()
        for grade, field in self.fields.items():
            rows.addRow(say("{grade} from", grade=label(grade)), field)
        self.body.addLayout(rows)
        self.body.addStretch(1)
        leave = self.add_button(say("Cancel"))
        leave.clicked.connect(self.leave)
        usual = self.add_button(say("Default"))
        usual.clicked.connect(lambda: self._show(GradeThresholds()))
        self.keep_button = self.add_button(say("Save"), main=True)
        self.keep_button.clicked.connect(self._keep)

    def begin(self) -> None:
        """Show the shares as they are."""
        self.refuse(None)
        ledger = self._desk.ledger
        self._desk.executor.ask("grades", lambda: thresholds(ledger), self._show)

    def _show(self, levels: GradeThresholds) -> None:
        for grade, field in self.fields.items():
            field.setValue(100 * levels.of(grade))

    def _keep(self) -> None:
        heavy, moderate, light = (self.fields[grade].value() / 100 for grade in GRADES)
        thresholds = GradeThresholds(heavy, moderate, light)
        self._desk.do(lambda ledger: set_thresholds(ledger, thresholds), lambda _done: self.leave())


def _percent(name: str) -> QDoubleSpinBox:
    field = QDoubleSpinBox()
    field.setRange(0.0, 100.0)
    field.setDecimals(1)
    field.setSuffix(" %")
    field.setAccessibleName(say("{grade} from", grade=name))
    field.setMaximumWidth(120)
    return field
