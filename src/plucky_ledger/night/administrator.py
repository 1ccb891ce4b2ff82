"""What only the administrator may do for a night shift: begin it, and end it."""

import re
import time
from collections.abc import Mapping

import msgspec

from plucky_ledger.capture.arming import arm
from plucky_ledger.capture.arming import take_away as disarm
from plucky_ledger.capture.starters import Arming, starter_of
from plucky_ledger.control.place import Place, is_users_own
from plucky_ledger.control.unit_files import OF_USER
from plucky_ledger.core.entries.states import STARTED
from plucky_ledger.core.pc.arming import MOST_BOOTS, Level
from plucky_ledger.core.reasons import ReasonCode
from plucky_ledger.core.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.administrator import answered, who_asks
from plucky_ledger.linux.files import remove
from plucky_ledger.linux.folders import Folders
from plucky_ledger.night import starter
from plucky_ledger.night.agent import end_now
from plucky_ledger.night.plan import MOST_ENTRIES, NightPlan, keep_plan, plan_path, read_plan

BEGIN, END = "night-begin", "night-end"
REQUESTS = frozenset({BEGIN, END})
TAKE_AN_ORDER = frozenset({BEGIN})
LONGEST_SECONDS = 16 * 3600.0
_A_NAME = re.compile(r"[\w:.\\@-]+\.(service|timer|desktop)")


class Beginning(msgspec.Struct, frozen=True):
    """All that somebody is asked to be the administrator for."""

    plan: NightPlan
    arming: Arming


def begin(plan: NightPlan, arming: Arming) -> None:
    """Have a night shift go on with the next restart, with its boots recorded.

    Raises Trouble; nothing is left then.
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
            if who is not None:  # whoever asked cannot have somebody else's switched or written
                plan = msgspec.structs.replace(plan, user=who)
                to_arm = msgspec.structs.replace(to_arm, user=who)
            _begin(plan, to_arm, folders)
        case "night-end":
            plan_now = read_plan(folders)
            if plan_now is not None and not plan_now.restored:
                end_now(plan_now, ReasonCode.NIGHT_STOPPED, folders)
        case _:
            raise ValueError("nothing the administrator does")
    return b""


def _begin(plan: NightPlan, to_arm: Arming, folders: Folders) -> None:
    known = read_plan(folders)
    if known is not None and not known.restored:
        raise Refused(TroubleCode.NIGHT_SHIFT_GOES_ON, label=known.job)
    _check(plan, folders)
    fresh = NightPlan(  # nothing of how it stands is believed
        plan.key, plan.job, plan.user, plan.entries, plan.series, plan.usual_seconds, plan.wanted,
        plan.asks, plan.until,
    )  # fmt: skip
    arm(to_arm, Level.SYSTEM, folders)
    try:
        keep_plan(fresh, folders)
        starter.install(folders)
    except (OSError, Trouble) as error:
        starter.take_away(folders)
        remove(plan_path(folders))
        disarm(starter_of(Level.SYSTEM, folders))
        if isinstance(error, Trouble):
            raise
        raise Trouble(
            TroubleCode.NOT_SWITCHED, path=str(error.filename or ""), system=error.strerror or ""
        ) from error


def _check(plan: NightPlan, folders: Folders) -> None:
    """Only entries that can be switched off, and no more than there is a night for."""
    late = plan.until > time.time() + LONGEST_SECONDS
    if not 0 < len(plan.entries) <= MOST_ENTRIES or len(plan.series) > MOST_BOOTS or late:
        raise ValueError("this is no night shift")
    if not {entry for state in plan.series for entry in state} <= set(plan.entries):
        raise ValueError("this is no night shift")
    for entry in plan.entries:
        wanted = plan.state_of(entry)
        if not _A_NAME.fullmatch(entry.removeprefix(OF_USER)) or wanted in STARTED:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=entry, state=wanted.value)
    of_system = [entry for entry in plan.entries if not is_users_own(entry)]
    for found in Place("system", folders).look(of_system):
        wanted = plan.state_of(found.entry_id)
        if wanted not in found.possible:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=found.entry_id, state=wanted.value)
