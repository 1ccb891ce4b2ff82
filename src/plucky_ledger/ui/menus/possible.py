"""What menus command, and when their actions are possible."""

from typing import Protocol

from plucky_ledger.core.job.job import changes_in_force, state_of
from plucky_ledger.core.job.noticed import outside_of
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.ui.book.book_view import BookView
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.file_dialogs import Files
from plucky_ledger.ui.job_files import JobFiles
from plucky_ledger.ui.learned import Learned
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.right_page import RightPage
from plucky_ledger.ui.sticks import Sticks
from plucky_ledger.ui.switching import Switching
from plucky_ledger.ui.taking_out import TakingOut
from plucky_ledger.ui.ways import Ways
from plucky_ledger.ui.window_panels import Panels
from plucky_ledger.usecases.jobs.opening import is_salvaged


class WindowCommands(Protocol):
    """The window, as menus know it."""

    book: BookView
    desk: Desk
    files: Files
    job_files: JobFiles
    learned: Learned
    panels: Panels
    right: RightPage
    sticks: Sticks
    switching: Switching
    taking_out: TakingOut
    ways: Ways

    def bring_back(self) -> None:
        """Bring the selected boot back."""

    def close(self) -> bool:
        """Close the window."""

    def open_demo(self) -> None:
        """Open the demo."""

    def reset_demo(self) -> None:
        """Begin the demo anew."""

    def put_entry_back(self) -> None:
        """Put the chosen entry back."""

    def rub_out(self) -> None:
        """Rub the pencilled changes out."""

    def show_keys(self) -> None:
        """Show all keys."""

    def show_shelf(self) -> None:
        """Show the job shelf."""

    def show_about(self) -> None:
        """Say which version this is, and where it keeps what."""

    def write_down_outside(self) -> None:
        """Write down what others changed."""


class Possible:
    """When actions make sense."""

    def __init__(self, window: WindowCommands) -> None:
        self._window = window
        self._desk = window.desk

    def write(self) -> bool:
        return self._desk.writable

    def stick(self) -> bool:
        return self.write() and bool(self._window.sticks.pcs)

    def job(self) -> bool:
        return self._desk.job is not None

    def save_repaired(self) -> bool:
        return is_salvaged(self._desk.ledger)

    def demo(self) -> bool:
        return self._desk.is_demo and self.write()

    def job_and_write(self) -> bool:
        return self.job() and self.write()

    def boot_that_counts(self) -> bool:
        boot = self._desk.boot
        return self.write() and boot is not None and boot.counts

    def boot_aside(self) -> bool:
        boot = self._desk.boot
        return self.write() and boot is not None and not boot.counts

    def boot(self) -> bool:
        return self.write() and self._desk.boot is not None

    def pencilled(self) -> bool:
        job = self._desk.job
        return self.write() and job is not None and job.pencilled is not None

    def done_posting(self) -> bool:
        job, posting = self._desk.job, self._desk.selection.posting
        if job is None or posting is None or not self.write():
            return False
        done = state_of(job, posting) in {PostingState.IN_FORCE, PostingState.POSTED}
        return done and bool(posting.own_changes)

    def something_in_force(self) -> bool:
        job = self._desk.job
        return self.write() and job is not None and bool(changes_in_force(job))

    def turns(self) -> bool:
        job = self._desk.job
        return self.write() and job is not None and job.turns is None and self._desk.line > 0

    def end_turns(self) -> bool:
        job = self._desk.job
        return self.write() and job is not None and job.turns is not None

    def something_outside(self) -> bool:
        job = self._desk.job
        return self.write() and job is not None and outside_of(job) is not None

    def entries(self) -> bool:
        return self.job() and self._window.right.lens is LensName.ENTRIES

    def entries_and_write(self) -> bool:
        return self.entries() and self.write()

    def lanes(self) -> bool:
        return self.job() and self._window.right.lens is LensName.LANES

    def load(self) -> bool:
        return self.job() and self._window.right.lens is LensName.LOAD

    def load_and_write(self) -> bool:
        return self.load() and self.write()

    def why(self) -> bool:
        return self.job() and self._window.right.lens is LensName.WHY

    def advice(self) -> bool:
        return self.why() and self.write()

    def stop(self) -> bool:
        return self.load() and self._window.right.load.stop_button.isEnabled()

    def decide(self) -> bool:
        return (self.entries() or self.lanes()) and self.write()
