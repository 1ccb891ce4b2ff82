"""The demo: two PCs of the Gullwing Maritime Museum, recorded as real PCs would be.

Nothing of it is written by hand but what was done and why: every figure comes from recordings
that the stand-in PC produced through the recorder.
"""

import tempfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

from plucky_ledger.capture.sampling.recorder import ADAPTIVE
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.exchange.entries import entries_from_bytes
from plucky_ledger.exchange.facts import facts_from
from plucky_ledger.standin.simulated_pc import PCS, RECORD_SECONDS
from plucky_ledger.store.address import Address
from plucky_ledger.store.boots import recording_of
from plucky_ledger.store.jobs import add_job, write_posting
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.moving import move
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.changing.decisions import decide
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import read_job, read_jobs
from plucky_ledger.usecases.recording.boots import import_recording, set_boot_aside
from plucky_ledger.usecases.recording.stand_ins import record_stand_in, stand_in_setup

LABEL = "0417"
OPENED = datetime(2026, 11, 12, 8, 40, tzinfo=UTC)
BETWEEN_BOOTS = timedelta(minutes=6)

Progress = Callable[[int, int], bool]
"""Told how many boots are done and how many there are; False stops."""


@dataclass(frozen=True, kw_only=True)
class _Chapter:
    """One posting of the demo and how many boots follow it."""

    title: str
    changes: tuple[Change, ...]
    boots: int
    after_hours: float
    strikes_out: int | None = None
    """Index of the chapter it puts back."""
    updates_in_boot: int | None = None
    """Index of a boot during which updates were installing."""


def _off(entry_id: str, name: str, why: str) -> Change:
    return Change(
        kind=ChangeKind.STARTUP_ENTRY,
        what=name,
        why=why,
        entry_id=entry_id,
        new_state=EntryState.OFF,
    )


def _later(entry_id: str, name: str, why: str) -> Change:
    return Change(
        kind=ChangeKind.STARTUP_ENTRY,
        what=name,
        why=why,
        entry_id=entry_id,
        new_state=EntryState.LATER,
    )


_SWAP = Change(kind=ChangeKind.SWAP, what="swap file doubled to 8 GB", why="somebody said it helps")
_CHAPTERS = (
    _Chapter(
        title="Switched off 5 sign-in programs",
        changes=(
            _off("lanternprint-agent", "Lanternprint Agent", "nobody prints labels at this desk"),
            _off("gullwatch-indexer", "Gullwatch Indexer", "photo search is not used here"),
            _off("ropewalk-messenger", "Ropewalk Messenger", "the office uses it, the desk not"),
            _off("quaybell-helper", "Quaybell Helper", "starts by itself when needed"),
            _off("windlass-toolbar", "Windlass Toolbar", "left behind: its program is gone"),
        ),
        boots=4,
        after_hours=1,
    ),
    _Chapter(
        title="",
        changes=(
            _later("saltmarsh-backup", "Saltmarsh Backup", "it may run once the desk is open"),
        ),
        boots=5,
        after_hours=3,
        updates_in_boot=1,
    ),
    _Chapter(
        title="Fast-start hibernation off",
        changes=(
            Change(
                kind=ChangeKind.FAST_START,
                what="fast-start hibernation off",
                why="to start cleanly",
            ),
        ),
        boots=4,
        after_hours=22,
    ),
    _Chapter(title="Swap file doubled", changes=(_SWAP,), boots=3, after_hours=24),
    _Chapter(
        title="Put back: swap file as it was",
        changes=(replace(_SWAP, what="swap file back to 4 GB", why="it made the start slower"),),
        boots=4,
        after_hours=26,
        strikes_out=3,
    ),
)
_DECISIONS = (
    ("brassrail-till", Decision.KEEP, "the desk cannot work without it"),
    ("harbour-guard.service", Decision.KEEP, "protects the PC"),
    ("pilotcard-reader.service", Decision.KEEP, "members pay by card"),
    ("tideclock-sync", Decision.LOOK_UP, "does the desk use the office calendar?"),
    ("deckhand-updater", Decision.OFF, "the owner updates on Mondays"),
    ("foghorn-notify", Decision.LATER, "news can wait until the desk is open"),
)


@dataclass(frozen=True)
class _Story:
    """One PC of the demo and what was done to it."""

    pc: str
    """Name of the stand-in PC."""
    card: Card
    opened: datetime
    opening: int
    """Boots of the opening round."""
    chapters: tuple[_Chapter, ...]


_TICKET_DESK_STORY = _Story(
    "ticket-desk",
    Card(
        LABEL,
        "Ticket-desk PC",
        "Gullwing Maritime Museum",
        "Takes ages in the morning; the queue is at the door before the till is open.",
    ),
    OPENED,
    5,
    _CHAPTERS,
)
_GIFT_SHOP_STORY = _Story(
    "gift-shop",
    Card("0398", "Gift-shop PC", "Gullwing Maritime Museum", "Slow since the label printer came."),
    OPENED - timedelta(days=7),
    3,
    (
        _Chapter(
            title="",
            changes=(
                _off(
                    "lanternprint-agent", "Lanternprint Agent", "labels are printed in the office"
                ),
            ),
            boots=3,
            after_hours=1,
        ),
        _Chapter(
            title="",
            changes=(
                _later("ropewalk-messenger", "Ropewalk Messenger", "messages can wait a little"),
            ),
            boots=3,
            after_hours=2,
        ),
    ),
)


def forget_demo(path: Path) -> Path | None:
    """Remove the demo, so that it is begun anew. Where a real PC was taken into it, it is kept
    under another name, which is returned.

    Raises:
        Trouble: it is open in another window, or cannot be read.
    """
    if not path.exists():
        return None
    with Ledger(path) as ledger:
        if ledger.read_only_because is not None:
            raise ledger.read_only_because
        only_demo = all(job.pc.kind is PcKind.STAND_IN for job in read_jobs(ledger))
    kept = None if only_demo else path.with_name(f"demo-{now():%Y%m%d-%H%M%S}.ledger")
    if kept is not None:
        path.replace(kept)
    for end in ("", "-wal", "-shm"):
        path.with_name(path.name + end).unlink(missing_ok=True)
    return kept


def write_demo(path: Path, progress: Progress) -> bool:
    """Write the demo into the new ledger ``path``, whole or not at all; False when stopped.

    Raises:
        LedgerFault: it cannot be written there.
    """
    building = path.with_name(path.name + ".building")
    building.unlink(missing_ok=True)
    try:
        with Ledger(building) as ledger:
            made = build_demo(ledger, progress) is not None
        if made:
            building.replace(path)
    finally:
        building.unlink(missing_ok=True)
        building.with_name(building.name + ".lock").unlink(missing_ok=True)
    return made


def write_demo_on_server(address: Address, progress: Progress) -> bool:
    """Write the demo into the empty ledger of a server; False when stopped. Raises Trouble."""
    import tempfile

    with Ledger(address) as target, tempfile.TemporaryDirectory() as folder:
        if target.read_only_because is not None:
            raise target.read_only_because
        with Ledger(Path(folder) / "demo.ledger") as built:
            made = build_demo(built, progress) is not None
            if made:
                move(built, target)
    return made


def build_demo(ledger: Ledger, progress: Progress) -> int | None:
    """Write the demo's two jobs into an empty ledger; returns the number of the ticket desk's, or
    None when stopped.
    """
    stories = (_GIFT_SHOP_STORY, _TICKET_DESK_STORY)
    total = sum(
        story.opening + sum(chapter.boots for chapter in story.chapters) for story in stories
    )
    done = 0
    number = 0
    for story in stories:
        teller = _Teller(ledger, story, done, total, progress)
        if not teller.tell():
            return None
        number, done = teller.number, teller.done
    _decide(ledger, number)
    progress(total, total)
    return number


class _Teller:
    """Plays one story: records its boots and writes its postings down."""

    def __init__(
        self, ledger: Ledger, story: "_Story", done: int, total: int, progress: Progress
    ) -> None:
        self._ledger, self._story = ledger, story
        self.done, self._total, self._progress = done, total, progress
        facts, which = facts_from(PCS[story.pc].facts), WhichPc(PcKind.STAND_IN, story.pc)
        with step(ledger, StepCode.TAKE_IN, None, title=story.card.title) as session:
            self.number = add_job(session, story.card, facts, which, story.opened)

    def tell(self) -> bool:
        """False when stopped."""
        ledger, story = self._ledger, self._story
        if not self._boots(story.opening, story.opened):
            return False
        posted: list[int] = []
        for chapter in story.chapters:
            begin = story.opened + timedelta(hours=chapter.after_hours)
            undone = posted[chapter.strikes_out] if chapter.strikes_out is not None else None
            posting = Posting(
                number=0,
                changes=chapter.changes,
                title=chapter.title,
                posted_at=begin,
                strikes_out=undone,
            )
            with step(ledger, StepCode.POST, self.number) as session:
                posted.append(write_posting(session, self.number, posting))
            if not self._boots(chapter.boots, begin, chapter.updates_in_boot):
                return False
        _set_aside_updating(ledger, self.number)
        return True

    def _boots(self, count: int, begin: datetime, updates_in: int | None = None) -> bool:
        with tempfile.TemporaryDirectory() as folder:
            for index in range(count):
                if not self._progress(self.done, self._total):
                    return False
                path = Path(folder) / f"boot-{self.done:02d}.jsonl.gz"
                at = begin + BETWEEN_BOOTS * (index + 1)
                setup = stand_in_setup(read_job(self._ledger, self.number), index == updates_in)
                boot = PCS[self._story.pc].restart(setup, 1417 + 31 * self.done, at)
                record_stand_in(boot, path, RECORD_SECONDS, pace=ADAPTIVE)
                import_recording(self._ledger, self.number, path)
                self.done += 1
        return True


def _decide(ledger: Ledger, number: int) -> None:
    """What is decided so far at the ticket desk; the last of it is still to be made."""
    first = read_job(ledger, number).opening_boots[0]
    with ledger.session() as session:
        recording = recording_of(session, first.number)
    assert recording is not None
    entries = {entry.entry_id: entry for entry in entries_from_bytes(recording)}
    for entry_id, decision, reason in _DECISIONS:
        decide(ledger, number, [entries[entry_id]], decision, reason, deliberate=True)


def _set_aside_updating(ledger: Ledger, number: int) -> None:
    for boot in read_job(ledger, number).boots:
        if boot.context.updates_running:
            set_boot_aside(ledger, number, boot.number, "updates were installing")
