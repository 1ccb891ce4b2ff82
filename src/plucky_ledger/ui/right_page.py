"""The right page: six lenses on the selected line, or a panel in their place."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lens_head import LensHead
from plucky_ledger.ui.lenses.lanes import LanesLens
from plucky_ledger.ui.lenses.lens import Lens
from plucky_ledger.ui.lenses.registry import LensName, make_lens

if TYPE_CHECKING:
    from plucky_ledger.ui.lenses.entries import EntriesLens
    from plucky_ledger.ui.lenses.load import LoadLens
    from plucky_ledger.ui.lenses.statement import StatementLens
    from plucky_ledger.ui.lenses.verdict import VerdictLens
    from plucky_ledger.ui.lenses.why import WhyLens
    from plucky_ledger.ui.panels.panel import Panel
    from plucky_ledger.wording.basis import Basis


BETWEEN_LENSES_MILLISECONDS = 150


class RightPage(QWidget):
    """Lenses and panels.

    Signals:
        lens_changed(): another lens is in use.
        lens_chosen(): somebody chose one with its button.
        lens_made(LensName): a lens is there; they are made when first wanted.
        step_wanted(Step): what would decide the verdict is to be done.
    """

    lens_changed = Signal()
    lens_chosen = Signal()
    lens_made = Signal(object)
    step_wanted = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("page")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._desk = desk
        self.lanes = LanesLens(desk)
        self._stack = QStackedWidget()
        self._stack.addWidget(self.lanes)
        self.head = LensHead(desk)
        self.head.chosen.connect(self._choose_lens)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.head)
        layout.addWidget(self._stack, 1)
        self._lens = LensName.LANES
        # Several changes at once, and lenses out of sight, cost one refresh or none.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self.refresh)
        for changed in (
            desk.job_changed,
            desk.line_changed,
            desk.boot_changed,
            desk.measure_changed,
        ):
            changed.connect(self._soon.start)
        self.show_lens(self._lens)

    @cached_property
    def entries(self) -> EntriesLens:
        """What starts with the PC, what it costs, and what is decided."""
        return cast("EntriesLens", self._made(LensName.ENTRIES))

    @cached_property
    def load(self) -> LoadLens:
        """Who used what."""
        return cast("LoadLens", self._made(LensName.LOAD))

    @cached_property
    def verdict(self) -> VerdictLens:
        """Whether it improved."""
        return cast("VerdictLens", self._made(LensName.VERDICT))

    @cached_property
    def why(self) -> WhyLens:
        """Why it is still slow."""
        return cast("WhyLens", self._made(LensName.WHY))

    @cached_property
    def statement(self) -> StatementLens:
        """What the owner is told."""
        return cast("StatementLens", self._made(LensName.STATEMENT))

    def make_the_rest(self) -> None:
        """Make the lenses that nobody has wanted yet, one at a time."""
        left = [name for name in LensName if name not in vars(self)]
        if left:
            self._lens_of(left[0])
            QTimer.singleShot(BETWEEN_LENSES_MILLISECONDS, self, self.make_the_rest)

    def _made(self, name: LensName) -> Lens:
        lens = make_lens(name, self._desk)
        self._stack.addWidget(lens)
        vars(self)[name] = lens  # whoever hears of it may ask for it at once
        self.lens_made.emit(name)
        return lens

    def _lens_of(self, name: LensName) -> Lens:
        return cast("Lens", getattr(self, name))

    @property
    def lens(self) -> LensName:
        """Name of the lens in use."""
        return self._lens

    def decide(self, decision: Decision) -> None:
        """Decide about what is chosen in the lens in use."""
        lens = self.lanes if self._lens is LensName.LANES else self.entries
        lens.decide(decision)

    @property
    def chosen_entry(self) -> str:
        """Id of the entry chosen in the lens in use; empty without one."""
        if self._lens is LensName.LANES:
            return self.lanes.canvas.chosen
        row = self.entries.current
        return row.entry.entry_id if row is not None else ""

    def stop_program(self) -> None:
        """End the program chosen in the load, as a trial."""
        self.load.stop_button.click()

    def look_up_program(self) -> None:
        """Put the program chosen in the load on the look-up list."""
        self.load.look_up_button.click()

    def set_program_aside(self) -> None:
        """Set the program chosen in the load aside, or bring it back."""
        self.load.aside_button.click()

    def pencil_advice(self) -> None:
        """Pencil what the chosen finding advises."""
        self.why.advice.pencil_chosen()

    def tell_the_owner(self) -> None:
        """Put the chosen finding on the statement, or take it off."""
        self.why.advice.tell_the_owner_of_chosen()

    def advice_to_entry(self) -> None:
        """To the entry the chosen finding is about."""
        self.why.advice.to_entry_of_chosen()

    def ask_the_drives(self) -> None:
        """Have the administrator asked what drives say of themselves."""
        self.why.advice.ask_button.click()

    @property
    def basis(self) -> Basis | None:
        """What the figure chosen in the lens in use rests on; None where that is the line's."""
        return self._lens_of(self._lens).basis

    def show_lens(self, name: LensName) -> None:
        """Look through another lens."""
        self._lens = name
        lens = self._lens_of(name)
        lens.refresh()
        self._stack.setCurrentWidget(lens)
        self.head.show_lens(name)
        self.lens_changed.emit()

    def _choose_lens(self, name: LensName) -> None:
        self.lens_chosen.emit()
        self.show_lens(name)

    def refresh(self) -> None:
        """Bring the lens in use up to date."""
        self._lens_of(self._lens).refresh()
        self.head.say_what_it_is_about()

    def add_panel(self, panel: Panel) -> None:
        """A panel that can stand in place of the lenses."""
        self._stack.addWidget(panel)
        panel.closed.connect(lambda: self.show_lens(self._lens))

    def show_panel(self, panel: Panel) -> None:
        """Put a panel in place of the lenses."""
        if self._stack.indexOf(panel) < 0:  # it has stood in place of the shelf meanwhile
            self._stack.addWidget(panel)
        self._stack.setCurrentWidget(panel)
        self.head.show_panel()
        panel.setFocus()

    @property
    def shown(self) -> QWidget:
        """The lens or panel in sight."""
        shown = self._stack.currentWidget()
        assert shown is not None
        return shown

    def take_focus(self) -> None:
        """Move the keyboard here."""
        shown = self.shown
        candidates = [shown, *shown.findChildren(QWidget)]
        focusable = (
            widget
            for widget in candidates
            if widget.focusPolicy() & Qt.FocusPolicy.TabFocus and widget.isVisibleTo(self)
        )
        next(focusable, shown).setFocus(Qt.FocusReason.ShortcutFocusReason)
