"""Entries that other people's sign-in starts: switched as those people, by the administrator.

Each change is written down in that person's own journal, by a process that has become them. The
system's journal has a note of it, with no write of its own: by that it is found and put back.
"""

import pwd
from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import UTC, datetime

import msgspec

from plucky_ledger.control.journal_of_changes import (
    CUT_OFF,
    ChangeStage,
    EntryChange,
    RecordedChange,
)
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope
from plucky_ledger.control.user_scope import UserScope
from plucky_ledger.core.entries.kinds import (
    FIRST_PERSON,
    another_person,
    id_as_theirs,
    id_of_another,
    is_of_another,
)
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import EntryRequest, Switchable, Switched
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.users import is_administrator, is_person

POSSIBLE = (EntryState.ON, EntryState.OFF)
"""What can be wished for unseen: who may not look is told as the administrator looks."""


def look(entry_ids: Sequence[str]) -> list[Switchable]:
    """How entries of other people are set; the administrator alone can see it."""
    if not is_administrator():
        return [
            Switchable(entry_id=entry_id, state=None, possible=POSSIBLE, administrators=True)
            for entry_id in entry_ids
        ]
    return [found for person, ids in _by_person(entry_ids) for found in _look(person, ids)]


def _look(person: str, entry_ids: Sequence[str]) -> list[Switchable]:
    try:
        found = _scope_of(person).look([id_as_theirs(entry_id) for entry_id in entry_ids])
    except Trouble:
        cannot = Reason.of(ReasonCode.OF_ANOTHER_PERSON, person=person)
        return [
            Switchable(entry_id=entry_id, state=None, possible=(), cannot=cannot)
            for entry_id in entry_ids
        ]
    return [
        replace(one, entry_id=id_of_another(person, one.entry_id), administrators=True)
        for one in found
    ]


def switch(system: Scope, order: SwitchRequest) -> list[Switched]:
    """Set entries of the system and of other people, all or none; for the administrator.

    Raises Trouble; everything is as it was.
    """
    theirs = tuple(wish for wish in order.wishes if is_of_another(wish.entry_id))
    systems = tuple(wish for wish in order.wishes if wish not in theirs)
    switched = system.switch(msgspec.structs.replace(order, wishes=systems)) if systems else []
    if not theirs:
        return switched
    try:
        return [*switched, *_switch_noted(system, msgspec.structs.replace(order, wishes=theirs))]
    except Trouble:
        put_back(system, RevertSelection((order.key,)))
        raise


def _switch_noted(system: Scope, order: SwitchRequest) -> list[Switched]:
    note = RecordedChange(
        key=order.key,
        at=datetime.now(UTC).isoformat(timespec="seconds"),
        by=order.by,
        job=order.job,
        entries=tuple(
            EntryChange(wish.entry_id, wish.name, None, wish.state, ()) for wish in order.wishes
        ),
    )
    try:
        with system.journal.locked():
            path = system.journal.begin(note)
        switched = [one for person in _people(order) for one in _switch_as(person, order)]
        done = tuple(
            msgspec.structs.replace(entry, stage=ChangeStage.DONE) for entry in note.entries
        )
        with system.journal.locked():
            system.journal.keep(path, msgspec.structs.replace(note, entries=done))
    except OSError as error:
        at = str(error.filename or system.journal.folder)
        raise Trouble(TroubleCode.NOT_SWITCHED, path=at, system=error.strerror or "") from error
    return switched


def _switch_as(person: str, order: SwitchRequest) -> list[Switched]:
    wishes = tuple(_as_theirs(wish) for wish in order.wishes if _is_of(person, wish.entry_id))
    switched = _scope_of(person).switch(msgspec.structs.replace(order, wishes=wishes))
    return [replace(one, entry_id=id_of_another(person, one.entry_id)) for one in switched]


def _as_theirs(wish: EntryRequest) -> EntryRequest:
    return replace(wish, entry_id=id_as_theirs(wish.entry_id))


def put_back(system: Scope, which: RevertSelection) -> list[EntryChange]:
    """Undo changes of the system and of other people, and what was cut off; for the administrator.

    Raises Trouble; what could be is put back, and the people's own journals have the rest.
    """
    failed: list[Trouble] = []
    by_others: dict[str, str] = {}
    for person, theirs in _noted(system.changes(), which):
        try:
            undone = _scope_of(person).put_back(theirs)
        except Trouble as trouble:
            failed.append(trouble)
        else:
            by_others |= {id_of_another(person, one.entry): one.by_others for one in undone}
    told = [
        msgspec.structs.replace(one, by_others=by_others.get(one.entry, one.by_others))
        for one in system.put_back(which)
    ]
    if failed:
        raise failed[0]
    return told


def _noted(
    changes: Iterable[RecordedChange], which: RevertSelection
) -> list[tuple[str, RevertSelection]]:
    """Whose changes have to be undone, the newest first."""
    found = []
    for change in reversed(list(changes)):
        noted = [
            entry.entry
            for entry in change.entries
            if is_of_another(entry.entry)
            and entry.stage is not ChangeStage.PUT_BACK
            and (which.selects(change, entry) or entry.stage in CUT_OFF)
        ]
        found += [
            (person, RevertSelection((change.key,), tuple(map(id_as_theirs, ids))))
            for person, ids in _by_person(noted)
        ]
    return found


def _people(order: SwitchRequest) -> list[str]:
    return [person for person, _ in _by_person([wish.entry_id for wish in order.wishes])]


def _by_person(entry_ids: Iterable[str]) -> list[tuple[str, list[str]]]:
    by_person: dict[str, list[str]] = {}
    for entry_id in entry_ids:
        by_person.setdefault(another_person(entry_id), []).append(entry_id)
    return list(by_person.items())


def _is_of(person: str, entry_id: str) -> bool:
    return another_person(entry_id) == person


def _scope_of(person: str) -> UserScope:
    """Raises Trouble for who is no person of this PC: never the administrator, nor the system."""
    try:
        number = pwd.getpwnam(person).pw_uid
    except (KeyError, ValueError) as error:
        raise Trouble(TroubleCode.USER_WITHOUT_HOME, name=person) from error
    if number < FIRST_PERSON or not is_person(number):
        raise Trouble(TroubleCode.USER_WITHOUT_HOME, name=person)
    return UserScope(number)
