"""Switching what starts on the PC we run on: the user's own here, the system's elsewhere."""

import os
from collections.abc import Sequence

import msgspec

from plucky_ledger.control import administrator, other_people
from plucky_ledger.control.by_hand import looked_up_by_hand
from plucky_ledger.control.journal_of_changes import ChangeStage, RecordedChange
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope, is_in_force
from plucky_ledger.control.user_scope import UserScope
from plucky_ledger.core.entries.kinds import Switcher, is_users_own, switched_by
from plucky_ledger.core.entries.switching import PutBack, Reversible, Switchable, Switched
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.administrator import who_asks
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import ADMINISTRATOR, homes, is_administrator

IN_FILES = frozenset({Switcher.TABLES, Switcher.BUS_FILES})
"""What is switched here where its file can be written, and else by a person."""


ELSEWHERE = frozenset({Switcher.BY_HAND, Switcher.OTHER_PEOPLE})
"""What neither the system's scope nor the user's own switches."""


class ControlOfThisPc:
    """The PC we run on, as something that can be switched and put back.

    The user's part is the one of who runs this; for the administrator it is done as the user who
    asked, by a process that has become that user.
    """

    def __init__(self, folders: Folders | None = None) -> None:
        folders = folders or Folders.of_this_user()
        self._system = Scope("system", folders)
        if not is_administrator():
            self._own: Scope | UserScope = Scope("user", folders)
            self._users: tuple[Scope | UserScope, ...] = (self._own,)
            return
        asked = who_asks(os.environ)
        self._own = UserScope(ADMINISTRATOR if asked is None else asked)
        users = users_with_changes() if asked is None else (asked,)
        self._users = tuple(UserScope(user) for user in users)

    def look(self, entry_ids: Sequence[str]) -> dict[str, Switchable]:
        """How entries are set, and to what they can be set, by their ids."""
        looked: dict[str, Switchable] = {}
        switched = [one for one in entry_ids if switched_by(one) not in ELSEWHERE]
        for place, own in ((self._own, True), (self._system, False)):
            asked = [entry_id for entry_id in switched if is_users_own(entry_id) is own]
            if asked:
                looked |= {found.entry_id: found for found in place.look(asked)}
        others = [one for one in entry_ids if switched_by(one) is Switcher.OTHER_PEOPLE]
        looked |= {found.entry_id: found for found in other_people.look(others)}
        by_hand = [
            one
            for one in entry_ids
            if one not in looked or (switched_by(one) in IN_FILES and looked[one].state is None)
        ]
        return looked | (looked_up_by_hand(by_hand) if by_hand else {})

    def switch(self, order: SwitchRequest) -> list[Switched]:
        """Set entries as requested, all or none, and read the states back.

        The system's come first: the administrator may refuse, and then nothing else is changed.
        Raises Trouble; everything is as it was then.
        """
        own = tuple(wish for wish in order.wishes if is_users_own(wish.entry_id))
        systems = tuple(wish for wish in order.wishes if not is_users_own(wish.entry_id))
        switched: list[Switched] = []
        if systems:
            switched += administrator.switch(msgspec.structs.replace(order, wishes=systems))
        try:
            if own:
                switched += self._own.switch(msgspec.structs.replace(order, wishes=own))
        except Trouble:
            if systems:
                administrator.put_back(RevertSelection((order.key,)))
            raise
        return switched

    def put_back(self, which: RevertSelection) -> list[PutBack]:
        """Undo changes, and what was cut off; returns what was undone.

        The system's come first again. Raises Trouble; it can be tried again then, and the others
        are put back all the same.
        """
        undone, failed = [], []
        if is_in_force(self._system.changes(), which):
            undone += administrator.put_back(which)
        for place in self._users:
            try:
                undone += place.put_back(which)
            except Trouble as trouble:
                failed.append(trouble)
        if failed:
            raise failed[0]
        return [PutBack(entry.entry, entry.by_others) for entry in undone]

    def changes(self) -> list[Reversible]:
        """What was changed here and when, by posting, the oldest first."""
        by_key: dict[str, list[RecordedChange]] = {}
        for place in (self._system, *self._users):
            for change in place.changes():
                by_key.setdefault(change.key, []).append(change)
        reversible = [_reversible(key, changes) for key, changes in by_key.items()]
        return sorted(reversible, key=lambda change: change.at)

    def left_out(self) -> list[Reason]:
        """Journal files that are not trusted, each with the reason."""
        return [
            Reason.of(
                ReasonCode.LEFT_OUT_OF_JOURNAL, path=one.path, why=one.why.code, **one.why.facts
            )
            for place in (self._system, *self._users)
            for one in place.left_out()
        ]


def users_with_changes() -> tuple[int, ...]:
    """Users in whose home folders a journal of changes lies, the administrator among them."""
    return tuple(
        user
        for user, home in homes().items()
        if os.path.isdir(Folders.of({}, home).journal_of_changes)
    )


def _reversible(key: str, changes: Sequence[RecordedChange]) -> Reversible:
    entries = [entry for change in changes for entry in change.entries]
    return Reversible(
        key=key,
        at=min(change.at for change in changes),
        job=changes[0].job,
        entries=tuple(entry.entry for entry in entries if entry.stage is ChangeStage.DONE),
        put_back=tuple(entry.entry for entry in entries if entry.stage is ChangeStage.PUT_BACK),
        unfinished=any(change.cut_off for change in changes),
    )
