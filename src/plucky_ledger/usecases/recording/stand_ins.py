"""Stand-in PCs: simulated in the state that a job's postings left them in."""

from collections.abc import Callable, Sequence
from pathlib import Path

from plucky_ledger.capture.sampling.recorder import STEADY, Pace, record
from plucky_ledger.capture.sampling.slow_look import look_on
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.entry_states import entry_states
from plucky_ledger.core.job.job import Job, changes_in_force
from plucky_ledger.core.pc.arming import LOOK_SECONDS
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.recording.lines import Line
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup
from plucky_ledger.standin.pc import StandinBoot
from plucky_ledger.standin.simulated_pc import PCS, SimulatedPc, setup_of
from plucky_ledger.usecases.jobs.clock import now

LOOKED_AFTER = frozenset({ReasonCode.TIME_WAS_UP})
"""It is recorded for so long that it has settled by then."""


def stand_in_of(job: Job) -> SimulatedPc:
    """The stand-in PC a job is about; every restart of it goes a little differently."""
    seed = len(job.boots) * 101 + int(now().timestamp())
    return SimulatedPc(
        name=job.pc.name, setup=stand_in_setup(job), seed=seed, recorder=record_stand_in
    )


def stand_in_setup(job: Job, updates_running: bool = False) -> Setup:
    """The state a stand-in PC is in after everything that was posted."""
    kinds = frozenset(change.kind for change in changes_in_force(job))
    return setup_of(stand_in_states(job), kinds, updates_running)


def stand_in_states(job: Job) -> dict[str, EntryState]:
    """How a stand-in PC's entries are set: as posted, but for those that came back."""
    states = entry_states(job)
    for entry_id in PCS[job.pc.name].comes_back:
        if states.get(entry_id) is EntryState.OFF and _boots_since(job, entry_id):
            states[entry_id] = EntryState.ON
    return states


def _boots_since(job: Job, entry_id: str) -> int:
    """Boots since an entry was set last."""
    boots = 0
    for posting in job.postings:
        if posting.posted_at is not None:
            is_set = any(change.entry_id == entry_id for change in posting.changes)
            boots = len(posting.boots) + (0 if is_set else boots)
    return boots


def record_stand_in(
    boot: StandinBoot,
    path: Path,
    seconds: float,
    listener: Callable[[Sequence[Line]], None] | None = None,
    pace: Pace = STEADY,
) -> None:
    """Record a boot of a stand-in PC through the same recorder a real one runs.

    Nobody waits for the slow look: the minutes that it takes are gone at once.
    """
    with RecordingWriter(path) as writer:
        reason = record(boot, boot, writer, seconds, pace, listener, looked_after=LOOKED_AFTER)
        if reason in LOOKED_AFTER:
            boot.keep_pace = None
            look_on(boot, boot, writer, LOOK_SECONDS)
