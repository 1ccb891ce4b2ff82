"""Bringing a PC to the states of a night shift: the system's part as administrator, the user's as
the user, in a process that has become that user.
"""

import logging
import subprocess

import msgspec

from plucky_ledger.control.journal_of_changes import CUT_OFF, ChangeStage
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope
from plucky_ledger.core.entries.kinds import is_users_own
from plucky_ledger.core.entries.switching import EntryRequest
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.as_user import as_user
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import user_name
from plucky_ledger.night.plan import NextState, NightPlan

ANSWERS_WITHIN_SECONDS = 120.0
"""For the user's own command, which reads all boots of the night."""
SWITCHES_WITHIN_SECONDS = 60.0
MOST_BYTES = 200_000
"""Of what the user's process may answer."""
log = logging.getLogger(__name__)


class _Standing(msgspec.Struct, frozen=True):
    """How one level's journal stands."""

    off: tuple[str, ...]
    cut_off: bool


def off_now(plan: NightPlan) -> tuple[str, ...] | None:
    """Entries that this night shift has off now; None where switching was cut off.

    Raises Trouble.
    """
    standing = [_standing(plan, _system()), _of_the_user(plan)]
    if any(one.cut_off for one in standing):
        return None
    return tuple(sorted(entry for one in standing for entry in one.off))


def bring_to(plan: NightPlan, off: tuple[str, ...]) -> None:
    """Switch exactly these entries off. Raises Trouble; it can be put back then."""
    own = tuple(entry for entry in off if is_users_own(entry))
    _bring(plan, tuple(entry for entry in off if entry not in own), _system())
    as_user(
        plan.user,
        lambda folders: _bring(plan, own, Scope("user", folders)),
        bool,
        SWITCHES_WITHIN_SECONDS,
        MOST_BYTES,
    )


def put_everything_back(plan: NightPlan) -> list[Trouble]:
    """The PC as the night shift found it: the system's part first, and the user's whatever becomes
    of that. What was changed again since stays as it is now.

    Returns what could not be put back; it can be tried again.
    """
    which, failed = RevertSelection((plan.key,), plan.entries), []
    try:
        _system().put_back(which, leave_changed_again=True)
    except Trouble as trouble:
        failed.append(trouble)
    try:
        as_user(
            plan.user,
            lambda folders: _put_back_users(which, folders),
            bool,
            SWITCHES_WITHIN_SECONDS,
            MOST_BYTES,
        )
    except Trouble as trouble:
        failed.append(trouble)
    for one in failed:
        log.warning("not put back: %s", one)
    return failed


def _put_back_users(which: RevertSelection, folders: Folders) -> bool:
    Scope("user", folders).put_back(which, leave_changed_again=True)
    return True


def next_state(plan: NightPlan) -> NextState:
    """What the user's own command wants measured next. It can wish for nothing else than this.

    Raises:
        Trouble: it does not answer, or with what this night shift does not switch.
    """
    answer = as_user(
        plan.user,
        lambda _folders: _asked(plan.asks),
        NextState,
        ANSWERS_WITHIN_SECONDS + 5.0,
        MOST_BYTES,
    )
    if not set(answer.off or ()) <= set(plan.entries):
        raise Trouble(TroubleCode.NIGHT_SHIFT_NOT_SWITCHED)
    return answer


def _asked(command: tuple[str, ...]) -> NextState:
    """Runs in the user's process; raises what went wrong."""
    answer = subprocess.run(
        command, stdout=subprocess.PIPE, check=True, timeout=ANSWERS_WITHIN_SECONDS
    )
    return msgspec.json.decode(answer.stdout, type=NextState)


def _system() -> Scope:
    return Scope("system", Folders.of_this_user())


def _of_the_user(plan: NightPlan) -> _Standing:
    return as_user(
        plan.user,
        lambda folders: _standing(plan, Scope("user", folders)),
        _Standing,
        SWITCHES_WITHIN_SECONDS,
        MOST_BYTES,
    )


def _standing(plan: NightPlan, place: Scope) -> _Standing:
    """Limited to the entries of this night, whatever else the journal holds."""
    changes = [change for change in place.changes() if change.key == plan.key]
    entries = [
        entry for change in changes for entry in change.entries if entry.entry in plan.entries
    ]
    off = {entry.entry for entry in entries if entry.stage is ChangeStage.DONE}
    return _Standing(tuple(sorted(off)), any(entry.stage in CUT_OFF for entry in entries))


def _bring(plan: NightPlan, wanted: tuple[str, ...], place: Scope) -> bool:
    now = _standing(plan, place)
    back = tuple(entry for entry in now.off if entry not in wanted)
    if back or now.cut_off:
        place.put_back(
            RevertSelection((plan.key,), back) if back else RevertSelection(cut_off=True)
        )
    off = [entry for entry in wanted if entry not in now.off]
    if off:
        wishes = tuple(EntryRequest(entry, entry, plan.state_of(entry)) for entry in off)
        place.switch(SwitchRequest(plan.key, plan.job, user_name(plan.user), wishes))
    return True
