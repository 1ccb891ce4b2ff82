"""Ending a night shift: everything is put back, every trace goes, and the plan becomes the report.

Whatever fails on the way, the rest is done all the same.
"""

import logging
import time
from collections.abc import Callable
from functools import partial

import msgspec

from plucky_ledger.capture.arming.arming import take_away as disarm
from plucky_ledger.capture.arming.starters import starter_of
from plucky_ledger.control.control_of_this_pc import users_with_changes
from plucky_ledger.control.requests import RevertSelection
from plucky_ledger.control.scope import Scope
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.as_user import as_user
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.notifications import LONGEST
from plucky_ledger.night import notice, snapshot, starter
from plucky_ledger.night.plan import NightPlan
from plucky_ledger.night.plan_file import drop_plan, keep_plan, make_report
from plucky_ledger.night.state_switching import put_everything_back

KEY = "night-"
"""How keys of night shifts begin in the journals."""
MOST_TRIES = 5
"""Number of starts at which putting back is tried before it is left to a person."""
log = logging.getLogger(__name__)


def end_now(plan: NightPlan, reason: ReasonCode, folders: Folders, by: str = "") -> NightPlan:
    """End the night shift and put everything back; returns the plan as it stands then."""
    log.info("the night shift ends: %s %s", reason.value, by)
    ended = msgspec.structs.replace(
        plan, ended=reason.value, ended_by=by[:LONGEST], ended_at=time.time()
    )
    _all_the_same(lambda: keep_plan(ended, folders))
    return restore(ended, folders)


def restore(plan: NightPlan, folders: Folders) -> NightPlan:
    """Put everything back. What cannot be is tried again at the next start, a few times; then, as
    when everything is back, no trace is left but the report.
    """
    failed = bool(put_everything_back(plan))
    failed |= not _all_the_same(lambda: disarm(starter_of(Level.SYSTEM, folders)))
    plan = msgspec.structs.replace(plan, tries=plan.tries + 1, restored=not failed)
    if failed and plan.tries < MOST_TRIES:
        _all_the_same(lambda: keep_plan(plan, folders))
        return plan
    return _close(plan, folders)


def _close(plan: NightPlan, folders: Folders) -> NightPlan:
    """Remove every trace but the report, which lists what differs from the beginning."""
    _all_the_same(lambda: starter.take_away(folders))
    before, left = snapshot.read(folders), plan.left
    if before is not None:
        left = snapshot.differences(before, snapshot.take(plan, folders))
    for path in left:
        log.warning("not as it was at the beginning: %s", path)
    plan = msgspec.structs.replace(plan, left=left)
    _all_the_same(lambda: keep_plan(plan, folders))
    _all_the_same(lambda: make_report(folders))
    _all_the_same(lambda: snapshot.drop(folders))
    _all_the_same(lambda: starter.remove_copy(folders))
    notice.hide()
    return plan


def abandon(folders: Folders) -> bool:
    """End a night shift whose plan cannot be read, by the journals alone; whether all is back."""
    log.warning("the plan cannot be read: everything is put back by the journals")
    whole = _all_the_same(lambda: _put_back_nights(Scope("system", folders)))
    for user in users_with_changes():
        whole &= _all_the_same(partial(as_user, user, _put_back_users_nights, bool))
    whole &= _all_the_same(lambda: disarm(starter_of(Level.SYSTEM, folders)))
    if whole:
        _all_the_same(lambda: drop_plan(folders))
    _all_the_same(lambda: starter.take_away(folders))
    _all_the_same(lambda: snapshot.drop(folders))
    _all_the_same(lambda: starter.remove_copy(folders))
    notice.hide()
    return whole


def _put_back_users_nights(folders: Folders) -> bool:
    return _put_back_nights(Scope("user", folders))


def _put_back_nights(place: Scope) -> bool:
    keys = tuple(change.key for change in place.changes() if change.key.startswith(KEY))
    if keys:
        place.put_back(RevertSelection(keys), leave_changed_again=True)
    return True


def _all_the_same(work: Callable[[], object]) -> bool:
    """Run one step; an exception is logged, and the following steps run all the same."""
    try:
        work()
    except (Trouble, OSError) as trouble:
        log.warning("%s", trouble)
        return False
    except Exception:
        log.exception("a fault of this program")
        return False
    return True
