"""The panels of the window, each created on first use."""

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QStackedWidget

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.right_page import RightPage
from plucky_ledger.usecases.jobs.manual import Part

if TYPE_CHECKING:
    from collections.abc import Callable

    from plucky_ledger.ui.panels.arming import ArmPanel
    from plucky_ledger.ui.panels.basis import BasisPanel
    from plucky_ledger.ui.panels.card import CardPanel
    from plucky_ledger.ui.panels.details import DetailsPanel
    from plucky_ledger.ui.panels.differences import DifferencesPanel
    from plucky_ledger.ui.panels.figures_table import FiguresTablePanel
    from plucky_ledger.ui.panels.grades import GradesPanel
    from plucky_ledger.ui.panels.keys import KeysPanel
    from plucky_ledger.ui.panels.look_up import LookUpPanel
    from plucky_ledger.ui.panels.manual import ManualPanel
    from plucky_ledger.ui.panels.night import NightPanel
    from plucky_ledger.ui.panels.panel import Panel
    from plucky_ledger.ui.panels.posting import PostPanel
    from plucky_ledger.ui.panels.preferences import PreferencesPanel
    from plucky_ledger.ui.panels.putting_back import PutBackPanel
    from plucky_ledger.ui.panels.recording import RecordingPanel
    from plucky_ledger.ui.panels.set_aside import SetAsidePanel
    from plucky_ledger.ui.panels.stopwatch import CorrectMarksPanel, StopwatchPanel
    from plucky_ledger.ui.panels.take_in import TakeInPanel
    from plucky_ledger.ui.panels.type_entries import TypeEntriesPanel
    from plucky_ledger.ui.panels.type_figures import TypedPanel
    from plucky_ledger.ui.panels.visit import VisitPanel
    from plucky_ledger.ui.panels.workshop import WorkshopPanel
    from plucky_ledger.ui.panels.write_down import WriteDownPanel
    from plucky_ledger.usecases.jobs.job_files import Incoming, Side
    from plucky_ledger.wording.basis import Basis

BesideT = TypeVar("BesideT", bound="Panel")
FillingT = TypeVar("FillingT", bound="TakeInPanel | StopwatchPanel")


class Panels(QObject):
    """Makes and shows the panels.

    Signals:
        page_left(): a panel that filled the window was closed.
        recording_changed(): recording began or ended.
        ledger_wanted(Address): another ledger is to be opened.
    """

    page_left = Signal()
    recording_changed = Signal()
    ledger_wanted = Signal(object)

    def __init__(self, desk: Desk, right: RightPage, main: QStackedWidget) -> None:
        super().__init__()
        self._desk = desk
        self._right = right
        self._main = main

    # Panels that stand in place of the lenses.

    @cached_property
    def recording(self) -> "RecordingPanel":
        """The bench panel."""
        from plucky_ledger.ui.panels.recording import RecordingPanel

        panel = RecordingPanel(self._desk)
        panel.running_changed.connect(self.recording_changed)
        panel.in_the_book.connect(self._show_verdict)
        self._right.add_panel(panel)
        return panel

    @property
    def is_recording(self) -> bool:
        """Whether a recording is running."""
        return "recording" in vars(self) and self.recording.running

    @property
    def is_reading(self) -> bool:
        """Whether the manual is in sight."""
        return "manual" in vars(self) and self.manual.isVisible()

    @cached_property
    def arming(self) -> "ArmPanel":
        """Record the next boots, or read past ones."""
        from plucky_ledger.ui.panels.arming import ArmPanel

        panel = ArmPanel(self._desk)
        panel.record_wanted.connect(self.show_recording)
        return self._beside(panel)

    @cached_property
    def posting(self) -> "PostPanel":
        """What posting changes on a real PC."""
        from plucky_ledger.ui.panels.posting import PostPanel

        return self._beside(PostPanel(self._desk))

    @cached_property
    def night(self) -> "NightPanel":
        """A night shift."""
        from plucky_ledger.ui.panels.night import NightPanel

        return self._beside(NightPanel(self._desk))

    @cached_property
    def putting_back(self) -> "PutBackPanel":
        """What putting back undoes on a real PC."""
        from plucky_ledger.ui.panels.putting_back import PutBackPanel

        return self._beside(PutBackPanel(self._desk))

    @cached_property
    def write_down(self) -> "WriteDownPanel":
        """Changes to be written down."""
        from plucky_ledger.ui.panels.write_down import WriteDownPanel

        panel = self._beside(WriteDownPanel(self._desk))
        panel.post_wanted.connect(self.show_posting)
        return panel

    @cached_property
    def typed(self) -> "TypedPanel":
        """Figures to be typed in."""
        from plucky_ledger.ui.panels.type_figures import TypedPanel

        return self._beside(TypedPanel(self._desk))

    @cached_property
    def aside(self) -> "SetAsidePanel":
        """Why a boot is set aside."""
        from plucky_ledger.ui.panels.set_aside import SetAsidePanel

        return self._beside(SetAsidePanel(self._desk))

    @cached_property
    def visit(self) -> "VisitPanel":
        """The PC comes in again."""
        from plucky_ledger.ui.panels.visit import VisitPanel

        return self._beside(VisitPanel(self._desk))

    @cached_property
    def correct(self) -> "CorrectMarksPanel":
        """The marks of a boot."""
        from plucky_ledger.ui.panels.stopwatch import CorrectMarksPanel

        return self._beside(CorrectMarksPanel(self._desk))

    @cached_property
    def look_up(self) -> "LookUpPanel":
        """Everything to be looked up, over all jobs."""
        from plucky_ledger.ui.panels.look_up import LookUpPanel

        return self._beside(LookUpPanel(self._desk))

    @cached_property
    def type_entries(self) -> "TypeEntriesPanel":
        """Entries of a PC that can run nothing of ours."""
        from plucky_ledger.ui.panels.type_entries import TypeEntriesPanel

        return self._beside(TypeEntriesPanel(self._desk))

    @cached_property
    def grades(self) -> "GradesPanel":
        """From which share an entry is heavy, moderate or light."""
        from plucky_ledger.ui.panels.grades import GradesPanel

        return self._beside(GradesPanel(self._desk))

    @cached_property
    def keys(self) -> "KeysPanel":
        """Every shortcut with what it does."""
        from plucky_ledger.ui.panels.keys import KeysPanel

        return self._beside(KeysPanel())

    @cached_property
    def manual(self) -> "ManualPanel":
        """The manual."""
        from plucky_ledger.ui.panels.manual import ManualPanel

        return self._beside(ManualPanel())

    @cached_property
    def basis(self) -> "BasisPanel":
        """What a figure rests on."""
        from plucky_ledger.ui.panels.basis import BasisPanel

        panel = self._beside(BasisPanel())
        panel.method_wanted.connect(lambda section: self.show_manual(Part.METHODS, section))
        return panel

    @cached_property
    def workshop(self) -> "WorkshopPanel":
        """Where a workshop's ledger is on a server."""
        from plucky_ledger.ui.panels.workshop import WorkshopPanel

        panel = self._beside(WorkshopPanel())
        panel.open_wanted.connect(self.ledger_wanted)
        return panel

    @cached_property
    def preferences(self) -> "PreferencesPanel":
        """How it looks, and what is usual."""
        from plucky_ledger.ui.panels.preferences import PreferencesPanel

        panel = self._beside(PreferencesPanel(self._desk))
        panel.grades_wanted.connect(self.show_grades)
        panel.search_address_wanted.connect(self.show_look_up)
        return panel

    @cached_property
    def hand_card(self) -> "CardPanel":
        """Boots timed by hand on a card."""
        from plucky_ledger.ui.panels.card import CardPanel

        return self._beside(CardPanel(self._desk))

    @cached_property
    def figures_table(self) -> "FiguresTablePanel":
        """Figures from a table."""
        from plucky_ledger.ui.panels.figures_table import FiguresTablePanel

        return self._beside(FiguresTablePanel(self._desk))

    @cached_property
    def differences(self) -> "DifferencesPanel":
        """What was changed here and in a job file."""
        from plucky_ledger.ui.panels.differences import DifferencesPanel

        return self._beside(DifferencesPanel())

    @cached_property
    def details(self) -> "DetailsPanel":
        """A message that is too long for its line."""
        from plucky_ledger.ui.panels.details import DetailsPanel

        return self._beside(DetailsPanel())

    # Panels that fill the window.

    @cached_property
    def take_in(self) -> "TakeInPanel":
        """The job card."""
        from plucky_ledger.ui.panels.take_in import TakeInPanel

        return self._filling(TakeInPanel(self._desk))

    @cached_property
    def stopwatch(self) -> "StopwatchPanel":
        """The stopwatch."""
        from plucky_ledger.ui.panels.stopwatch import StopwatchPanel

        return self._filling(StopwatchPanel(self._desk))

    def _beside(self, panel: BesideT) -> BesideT:
        self._right.add_panel(panel)
        return panel

    def _filling(self, panel: FillingT) -> FillingT:
        self._main.addWidget(panel)
        panel.closed.connect(self.page_left)
        return panel

    def _show_verdict(self) -> None:
        """After a boot of a posting: what it says of that."""
        if self._desk.line > 0:
            self._right.show_lens(LensName.VERDICT)

    # Showing them.

    def _open(self, panel: "Panel") -> None:
        """Beside the book; in place of the shelf while no job is open."""
        if self._desk.job is not None:
            self._right.show_panel(panel)
            return
        if self._main.indexOf(panel) < 0:
            self._main.addWidget(panel)
        self._main.setCurrentWidget(panel)
        panel.closed.connect(self.page_left, Qt.ConnectionType.SingleShotConnection)
        panel.setFocus()

    def show_take_in(self) -> None:
        """An empty job card."""
        self.take_in.show_new()
        self._main.setCurrentWidget(self.take_in)

    def show_take_in_another(self) -> None:
        """An empty job card, of another PC than this one."""
        self.take_in.show_new(this_pc=False)
        self._main.setCurrentWidget(self.take_in)

    def show_card(self) -> None:
        """The open job's card."""
        if self._desk.job is not None:
            self.take_in.show_job(self._desk.job)
            self._main.setCurrentWidget(self.take_in)

    def show_recording(self) -> None:
        """The bench panel."""
        if self._desk.job is not None:
            self.recording.begin(self._desk.job)
            self._right.show_panel(self.recording)

    def show_arming(self) -> None:
        """Record the next boots, or read past ones."""
        if self._desk.job is not None:
            self._right.show_panel(self.arming)
            self.arming.begin(self._desk.job)

    def show_stopwatch(self) -> None:
        """The stopwatch fills the window."""
        self._main.setCurrentWidget(self.stopwatch)
        self.stopwatch.begin()

    def show_typed(self) -> None:
        """Figures to be typed in."""
        self._right.show_panel(self.typed)
        self.typed.begin()

    def show_workshop(self) -> None:
        """Where a workshop's ledger is on a server."""
        self.workshop.begin()
        self._open(self.workshop)

    def show_hand_card(self) -> None:
        """Boots timed by hand on a card."""
        self._right.show_panel(self.hand_card)
        self.hand_card.begin()

    def show_figures_table(self, path: Path) -> None:
        """Figures from a table that something else has written."""
        self._right.show_panel(self.figures_table)
        self.figures_table.begin(path)

    def show_correct(self) -> None:
        """The marks of the chosen boot."""
        if self._desk.boot is not None:
            self.correct.begin(self._desk.boot)
            self._right.show_panel(self.correct)

    def show_aside(self) -> None:
        """Ask why the chosen boot is set aside."""
        if self._desk.boot is not None:
            self._right.show_panel(self.aside)
            self.aside.begin(self._desk.boot)

    def show_visit(self) -> None:
        """The PC comes in again."""
        if self._desk.job is not None:
            self._right.show_panel(self.visit)
            self.visit.begin()

    def show_night(self) -> None:
        """A night shift."""
        if self._desk.job is not None:
            self._right.show_panel(self.night)
            self.night.begin()

    def show_look_up(self) -> None:
        """Everything to be looked up, over all jobs."""
        self.look_up.begin()
        self._open(self.look_up)

    def show_type_entries(self) -> None:
        """Entries of a PC that can run nothing of ours."""
        if self._desk.job is not None:
            self.type_entries.begin(self._desk.job)
            self._right.show_panel(self.type_entries)

    def show_grades(self) -> None:
        """From which share an entry is heavy, moderate or light."""
        self.grades.begin()
        self._open(self.grades)

    def show_posting(self) -> None:
        """What posting changes on a real PC."""
        self._right.show_panel(self.posting)
        self.posting.begin()

    def show_putting_back(self, posting: int | None, entries: tuple[str, ...]) -> None:
        """What putting back undoes on a real PC."""
        self._right.show_panel(self.putting_back)
        self.putting_back.begin(posting, entries)

    def show_write_down(self) -> None:
        """Changes to be written down."""
        self._right.show_panel(self.write_down)
        self.write_down.begin()

    def show_manual(self, part: Part, section: str) -> None:
        """The manual, at a section."""
        self.manual.begin(part, section)
        self._open(self.manual)

    def show_basis(self, basis: "Basis") -> None:
        """What a figure rests on."""
        self.basis.begin(basis)
        self._right.show_panel(self.basis)

    def show_preferences(self) -> None:
        """How it looks, and what is usual."""
        self.preferences.begin()
        self._open(self.preferences)

    def show_differences(
        self, incoming: "Incoming", then: "Callable[[dict[str, Side]], None]"
    ) -> None:
        """What was changed here and in a job file; ``then`` gets what was chosen."""
        self.differences.begin(incoming, then)
        self._open(self.differences)

    def show_details(self, words: str, title: str = "") -> None:
        """A message, whole; or what there is to say of something."""
        self.details.begin(words, title)
        self._open(self.details)

    def show_keys(self, keys: tuple[tuple[str, str], ...]) -> None:
        """Every shortcut with what it does."""
        self.keys.begin(keys)
        self._open(self.keys)
