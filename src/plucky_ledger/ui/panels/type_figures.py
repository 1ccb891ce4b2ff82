"""Figures read off a PC's own screen, and the reason for setting a boot aside."""

from PySide6.QtWidgets import QLineEdit

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.measures import Measure
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.fields import FigureField, Unreadable
from plucky_ledger.ui.panels.panel import Panel, form
from plucky_ledger.usecases.boots import add_typed, set_aside
from plucky_ledger.wording.figures import day_and_time


class TypedPanel(Panel):
    """One boot of a PC that can run nothing of ours."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            "Type figures in",
            "For a PC that can run nothing of ours: what its own screen said about one boot. "
            "Leave empty what is not known.",
        )
        self._desk = desk
        self.fields: dict[Measure, FigureField] = {}
        layout = form()
        for measure in Measure:
            terms = measure.terms
            unit = f", {terms.unit}" if terms.unit else ""
            field = FigureField(terms.title, "not known")
            field.setToolTip(terms.explanation)
            self.fields[measure] = field
            layout.addRow(f"{terms.title}{unit}", field)
        self.body.addLayout(layout)
        self.body.addStretch(1)
        leave = self.add_button("Leave it")
        leave.clicked.connect(self.leave)
        self.keep_button = self.add_button("Keep this boot", main=True)
        self.keep_button.clicked.connect(self.keep)

    def begin(self) -> None:
        """Empty fields."""
        for field in self.fields.values():
            field.clear()
        self.refuse("")
        next(iter(self.fields.values())).setFocus()

    def keep(self) -> None:
        """Put the boot into the book."""
        job = self._desk.job
        try:
            typed = {measure: field.figure() for measure, field in self.fields.items()}
        except Unreadable as error:
            self.refuse(str(error))
            return
        figures = {measure: value for measure, value in typed.items() if value is not None}
        if not figures:
            self.refuse("Type at least one figure; the fields left empty stay unknown.")
        elif job is not None:
            self._desk.do(
                lambda ledger: add_typed(ledger, job, figures), lambda _number: self.leave()
            )


class SetAsidePanel(Panel):
    """Why a boot is left out of the account."""

    def __init__(self, desk: Desk) -> None:
        super().__init__("Set a boot aside")
        self._desk = desk
        self._boot: Boot | None = None
        self.reason = QLineEdit()
        self.reason.setPlaceholderText("such as: updates were installing")
        self.reason.setAccessibleName("Reason")
        self.reason.returnPressed.connect(self.keep)
        self.body.addWidget(self.reason)
        self.body.addStretch(1)
        leave = self.add_button("Leave it")
        leave.clicked.connect(self.leave)
        self.keep_button = self.add_button("Set it aside", main=True)
        self.keep_button.clicked.connect(self.keep)

    def begin(self, boot: Boot) -> None:
        """Ask for the reason."""
        self._boot = boot
        self.reason.clear()
        self.refuse("")
        self.retitle(
            "Set a boot aside",
            f"The boot of {day_and_time(boot.started_at)} stays in the ledger, but out of the "
            "account. Say why; it can be brought back at any time.",
        )
        self.reason.setFocus()

    def keep(self) -> None:
        """Set it aside."""
        job, boot, reason = self._desk.job, self._boot, self.reason.text()
        if not reason.strip():
            self.refuse("Say why the boot is set aside: the owner may ask.")
        elif job is not None and boot is not None:
            self._desk.do(
                lambda ledger: set_aside(ledger, job, boot, reason), lambda _none: self.leave()
            )
