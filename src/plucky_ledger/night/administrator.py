"""The part of a night shift that needs the administrator: beginning and ending it."""

import logging
import time
from collections.abc import Mapping

import msgspec

from plucky_ledger.capture.arming.arming import arm
from plucky_ledger.capture.arming.arming import take_away as disarm
from plucky_ledger.capture.arming.restart import held_up_by
from plucky_ledger.capture.arming.starters import Arming, starter_of
from plucky_ledger.control.scope import Scope, is_name_of_an_entry
from plucky_ledger.control.stop import stop_unit
from plucky_ledger.core.entries.kinds import is_users_own
from plucky_ledger.core.entries.states import STARTED
from plucky_ledger.core.pc.arming import MOST_BOOTS, NIGHT_SHIFT, Level
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.administrator import answered, who_asks
from plucky_ledger.linux.bus import NoAnswer
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.init_systems.running import init_system
from plucky_ledger.linux.notifications import plain
from plucky_ledger.night import snapshot, starter
from plucky_ledger.night.ending import KEY, abandon, end_now
from plucky_ledger.night.plan import MOST_ENTRIES, NightPlan
from plucky_ledger.night.plan_file import (
    drop_plan,
    fits,
    keep_plan,
    plan_path,
    read_plan,
    take_room,
)

BEGIN, END = "night-begin", "night-end"
REQUESTS = frozenset({BEGIN, END})
TAKE_AN_ORDER = frozenset({BEGIN})
LONGEST_SECONDS = 16 * 3600.0
log = logging.getLogger(__name__)


class Beginning(msgspec.Struct, frozen=True):
    """The request to begin a night shift, as the administrator gets it."""

    plan: NightPlan
    arming: Arming


def begin(plan: NightPlan, arming: Arming) -> None:
    """Begin a night shift with the next restart, with its boots recorded. Raises Trouble; nothing
    is left then.
    """
    answered(carry_out, BEGIN, msgspec.json.encode(Beginning(plan, arming)))


def end() -> None:
    """End it now and put everything back. Raises Trouble."""
    answered(carry_out, END)


def carry_out(request: str, order: bytes, environment: Mapping[str, str]) -> bytes:
    """Do what is requested, as the administrator.

    Raises:
        Trouble: it could not be done.
        ValueError: that is no order.
    """
    folders = Folders.of_this_user()
    match request:
        case "night-begin":
            wished = msgspec.json.decode(order, type=Beginning)
            plan, to_arm = wished.plan, wished.arming
            who = who_asks(environment)
            if who is not None:  # the requesting user can switch and write only what is their own
                plan = msgspec.structs.replace(plan, user=who)
                to_arm = msgspec.structs.replace(to_arm, user=who)
            _begin(plan, to_arm, folders)
        case "night-end":
            _end(folders)
        case _:
            raise ValueError("nothing the administrator does")
    return b""


def _end(folders: Folders) -> None:
    """End it now. Raises Trouble where something could not be put back."""
    plan = read_plan(folders)
    if plan is None and not plan_path(folders).exists():
        return
    try:
        stop_unit(NIGHT_SHIFT, "SYSTEM")
    except Trouble as trouble:
        log.warning("the night shift's own service was not stopped: %s", trouble)
    if plan is None:
        whole, names = abandon(folders), ""
    else:
        plan = end_now(plan, ReasonCode.NIGHT_STOPPED, folders)
        whole, names = plan.restored, ", ".join(plan.entries)
    if not whole:
        raise Trouble(TroubleCode.NIGHT_NOT_PUT_BACK, names=names)


def _begin(plan: NightPlan, to_arm: Arming, folders: Folders) -> None:
    running = read_plan(folders)
    if running is not None:
        raise Refused(TroubleCode.NIGHT_SHIFT_GOES_ON, label=running.job)
    if plan_path(folders).exists():
        abandon(folders)
    _check(plan, folders)
    fresh = NightPlan(  # progress fields of the request are not trusted
        plan.key,
        plan.job,
        plan.user,
        plan.entries,
        plan.series,
        plan.usual_seconds,
        plan.wanted,
        plan.asks,
        plan.until,
        plain(plan.notice),
        _accepted(plan.user),
    )
    before = snapshot.take(fresh, folders)
    arm(to_arm, Level.SYSTEM, folders)
    try:
        take_room(folders)
        keep_plan(fresh, folders)
        snapshot.keep(before, folders)
        starter.install(folders)
    except (OSError, Trouble) as error:
        starter.take_away(folders)
        drop_plan(folders)
        snapshot.drop(folders)
        disarm(starter_of(Level.SYSTEM, folders))
        starter.remove_copy(folders)
        if isinstance(error, Trouble):
            raise
        raise Trouble(
            TroubleCode.NOT_SWITCHED, path=str(error.filename or ""), system=error.strerror or ""
        ) from error


def _accepted(user: int) -> tuple[str, ...]:
    """Programs that only delay restarts. Raises Refused where anything speaks against one now."""
    try:
        found = held_up_by(user)
    except NoAnswer as silence:
        raise Refused(TroubleCode.NOT_RESTARTED, because=(silence.reason,)) from silence
    against = tuple(one.reason for one in found if not one.only_delays)
    if against:
        raise Refused(TroubleCode.NOT_RESTARTED, because=against)
    return tuple(one.who for one in found)


def _check(plan: NightPlan, folders: Folders) -> None:
    """Only entries that can be switched off, no more than there is a night for, and a PC whose
    service manager starts what goes through it.
    """
    if init_system() is not None:
        reason = Reason(ReasonCode.NIGHT_NEEDS_MANAGER)
        raise Refused(TroubleCode.NO_NIGHT_SHIFT, because=(reason,))
    late = plan.until > time.time() + LONGEST_SECONDS
    few = 0 < len(plan.entries) <= MOST_ENTRIES and len(plan.series) <= MOST_BOOTS
    if not few or late or not plan.key.startswith(KEY) or not fits(plan):
        raise ValueError("this is no night shift")
    if not {entry for state in plan.series for entry in state} <= set(plan.entries):
        raise ValueError("this is no night shift")
    for entry in plan.entries:
        target = plan.state_of(entry)
        if not is_name_of_an_entry(entry) or target in STARTED:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=entry, state=target.value)
    of_system = [entry for entry in plan.entries if not is_users_own(entry)]
    for found in Scope("system", folders).look(of_system):
        target = plan.state_of(found.entry_id)
        if target not in found.possible:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=found.entry_id, state=target.value)
