"""Unposted changes on a PC that its boots were recorded with, and entries that reappeared."""

from dataclasses import dataclass

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.values.reasons import Reason, ReasonCode

ENTRY = "entry"
"""Fact with the id of the entry it is about."""
_DRIFT = frozenset({ReasonCode.CAME_BACK, ReasonCode.UPDATE_PUT_BACK})


def newest_boot(job: Job) -> Boot | None:
    """The boot that came last into a job's newest round with one."""
    posted = job.last_posted
    boots = posted.boots if posted is not None else job.opening_boots
    return boots[-1] if boots else None


def reappeared_entries(job: Job) -> tuple[Reason, ...]:
    """Entries that were switched off and were there again in the newest boot."""
    boot = newest_boot(job)
    return tuple(r for r in boot.context.noticed if r.code in _DRIFT) if boot else ()


@dataclass(frozen=True)
class Outside:
    """Unposted changes and the boot whose recording showed them."""

    boot: Boot
    changed: tuple[Reason, ...]


def outside_of(job: Job) -> Outside | None:
    """What is to be written into the book: seen in the newest round, and not in it yet."""
    posted = job.last_posted
    boots = posted.boots if posted is not None else job.opening_boots
    written = posted is not None and any(change.outside for change in posted.changes)
    for boot in boots[1:] if written else boots:
        changed = tuple(reason for reason in boot.context.noticed if reason.code not in _DRIFT)
        if changed:
            return Outside(boot, changed)
    return None


_SET = {
    ReasonCode.SET_ON: (EntryState.OFF, EntryState.ON),
    ReasonCode.SET_OFF: (EntryState.ON, EntryState.OFF),
}
_KINDS = {
    ReasonCode.SET_ON: ChangeKind.STARTUP_ENTRY,
    ReasonCode.SET_OFF: ChangeKind.STARTUP_ENTRY,
    ReasonCode.NEW_ENTRY: ChangeKind.PROGRAM_ADDED,
    ReasonCode.GONE_ENTRY: ChangeKind.PROGRAM_REMOVED,
    ReasonCode.UPDATED: ChangeKind.UPDATE,
    ReasonCode.KERNEL_CHANGED: ChangeKind.UPDATE,
    ReasonCode.PACKAGES_CHANGED: ChangeKind.UPDATE,
    ReasonCode.MEMORY_CHANGED: ChangeKind.MEMORY,
}


def change_of(reason: Reason, words: str) -> Change:
    """What was noticed as a change of the book; ``words`` tell it where it is about no setting."""
    entry_id = str(reason.facts.get(ENTRY, ""))
    old, new = _SET.get(reason.code, (None, None))
    what = str(reason.facts["name"]) if new is not None else words
    kind = _KINDS.get(reason.code, ChangeKind.OTHER)
    return Change(
        kind=kind, what=what, why="", entry_id=entry_id, new_state=new, old_state=old, outside=True
    )
