"""Figures read off a PC's own screen."""

from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.fields import FigureField
from plucky_ledger.ui.panels.panel import Panel, form
from plucky_ledger.ui.text import explain
from plucky_ledger.usecases.recording.boots import add_typed
from plucky_ledger.wording.labels import explanation, label
from plucky_ledger.wording.language import say


class TypedPanel(Panel):
    """One boot of a PC that can run nothing of ours."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            say("Type figures in"),
            say(
                "For a PC that cannot run Plucky Ledger: type what its own screen shows about "
                "one boot. Leave empty what you do not know."
            ),
        )
        self._desk = desk
        self._number: int | None = None
        """Of the job that the figures are about."""
        self.fields: dict[Measure, FigureField] = {}
        layout = form()
        for measure in Measure:
            title = label(measure)
            field = FigureField(title, say("not known"))
            explain(field, explanation(measure))
            self.fields[measure] = field
            layout.addRow(", ".join(filter(None, (title, measure.terms.unit))), field)
        self.body.addLayout(layout)
        self.body.addStretch(1)
        leave = self.add_button(say("Cancel"))
        leave.clicked.connect(self.leave)
        self.keep_button = self.add_button(say("Save this boot"), main=True)
        self.keep_button.clicked.connect(self.keep)

    def begin(self) -> None:
        """What was typed for this job and left, or else empty fields."""
        number = self._desk.job.number if self._desk.job is not None else None
        if number != self._number:
            self._number = number
            self._clear()
        self.refuse(None)
        next(iter(self.fields.values())).setFocus()

    def _clear(self) -> None:
        for field in self.fields.values():
            field.clear()

    def _kept(self) -> None:
        self._clear()
        self.leave()

    def keep(self) -> None:
        """Put the boot into the book."""
        job = self._desk.job
        try:
            typed = {measure: field.figure() for measure, field in self.fields.items()}
        except Refused as refused:
            self.refuse(refused)
            return
        figures = {measure: value for measure, value in typed.items() if value is not None}
        if not figures:
            self.refuse(Refused(TroubleCode.NO_FIGURE))
        elif job is not None:
            number = job.number
            self._desk.do(
                lambda ledger: add_typed(ledger, number, figures), lambda _boot: self._kept()
            )
