"""From which share an entry is heavy, moderate or light."""

from PySide6.QtWidgets import QDoubleSpinBox

from plucky_ledger.core.cost.cost import GradeThresholds
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel, form
from plucky_ledger.usecases.decisions import set_thresholds, thresholds

GRADES = ("heavy", "moderate", "light")


class GradesPanel(Panel):
    """Three shares, in percent."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            "Grades",
            "An entry's grade goes by the larger of two shares: the seconds it costs, of settled; "
            "the memory it holds, of what the PC has. Below light it is negligible.",
        )
        self._desk = desk
        self.fields = {name: _percent(name) for name in GRADES}
        rows = form()
        for name, field in self.fields.items():
            rows.addRow(f"{name} from", field)
        self.body.addLayout(rows)
        self.body.addStretch(1)
        leave = self.add_button("Leave it")
        leave.clicked.connect(self.leave)
        usual = self.add_button("As usual")
        usual.clicked.connect(lambda: self._show(GradeThresholds()))
        self.keep_button = self.add_button("Keep", main=True)
        self.keep_button.clicked.connect(self._keep)

    def begin(self) -> None:
        """Show the shares as they are."""
        self.refuse("")
        ledger = self._desk.ledger
        self._desk.work(lambda: thresholds(ledger), self._show)

    def _show(self, levels: GradeThresholds) -> None:
        for name, field in self.fields.items():
            field.setValue(100 * getattr(levels, name))

    def _keep(self) -> None:
        shares = {name: field.value() / 100 for name, field in self.fields.items()}
        wanted = GradeThresholds(**shares)
        self._desk.do(lambda ledger: set_thresholds(ledger, wanted), lambda _done: self.leave())


def _percent(name: str) -> QDoubleSpinBox:
    field = QDoubleSpinBox()
    field.setRange(0.0, 100.0)
    field.setDecimals(1)
    field.setSuffix(" %")
    field.setAccessibleName(f"{name} from")
    field.setMaximumWidth(120)
    return field
