"""Bringing a PC to the states of a night shift: the system's part as administrator, the user's as
the user, in a process of its own.
"""

import os
import subprocess
import sys
from collections.abc import Callable
from typing import TypeVar

import msgspec

from plucky_ledger.control.journal import CUT_OFF, Stage
from plucky_ledger.control.orders import Order, Which
from plucky_ledger.control.place import Place, is_users_own
from plucky_ledger.core.entries.switching import Wish
from plucky_ledger.core.trouble import Trouble, TroubleCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import become, homes, user_name
from plucky_ledger.night.plan import LARGEST_BYTES, NextState, NightPlan

T = TypeVar("T")
RUN = "/run/user"
ANSWERS_WITHIN_SECONDS = 120.0
"""For the user's own command, which reads all boots of the night."""


class _Standing(msgspec.Struct, frozen=True):
    """How one hand's journal stands."""

    off: tuple[str, ...]
    cut_off: bool


def off_now(plan: NightPlan) -> tuple[str, ...] | None:
    """Entries that this night shift has off now; None where switching was cut off."""
    standing = [
        _standing(plan, _system()),
        _as_user(plan.user, lambda place: _standing(plan, place), _Standing),
    ]
    if any(one.cut_off for one in standing):
        return None
    return tuple(sorted(entry for one in standing for entry in one.off))


def bring_to(plan: NightPlan, off: tuple[str, ...]) -> None:
    """Have just these entries off. Raises Trouble; it can be put back then."""
    own = tuple(entry for entry in off if is_users_own(entry))
    _bring(plan, tuple(entry for entry in off if entry not in own), _system())
    _as_user(plan.user, lambda place: _bring(plan, own, place), bool)


def put_everything_back(plan: NightPlan) -> None:
    """The PC as the night shift found it, byte for byte. Raises Trouble; it can be tried again."""
    which = Which((plan.key,))
    _system().put_back(which)
    _as_user(plan.user, lambda place: bool(place.put_back(which)), bool)


def next_state(plan: NightPlan) -> NextState:
    """What the user's own command wants measured next. It can wish for nothing else than this.

    Raises:
        Trouble: it does not answer, or with what this night shift does not switch.
    """
    told = _as_user(plan.user, lambda _place: _asked(plan.asks), NextState)
    if not set(told.off or ()) <= set(plan.entries):
        raise Trouble(TroubleCode.NIGHT_SHIFT_NOT_SWITCHED)
    return told


def _asked(command: tuple[str, ...]) -> NextState:
    """In the process of the user: raises what there is to be raised."""
    answer = subprocess.run(
        command, stdout=subprocess.PIPE, check=True, timeout=ANSWERS_WITHIN_SECONDS
    )
    return msgspec.json.decode(answer.stdout, type=NextState)


def _system() -> Place:
    return Place("system", Folders.of_this_user())


def _standing(plan: NightPlan, place: Place) -> _Standing:
    changes = [change for change in place.changes() if change.key == plan.key]
    entries = [entry for change in changes for entry in change.entries]
    return _Standing(
        tuple(entry.entry for entry in entries if entry.stage is Stage.DONE),
        any(entry.stage in CUT_OFF for entry in entries),
    )


def _bring(plan: NightPlan, wanted: tuple[str, ...], place: Place) -> bool:
    now = _standing(plan, place)
    back = tuple(entry for entry in now.off if entry not in wanted)
    if back or now.cut_off:
        place.put_back(Which((plan.key,), back) if back else Which(cut_off=True))
    off = [entry for entry in wanted if entry not in now.off]
    if off:
        wishes = tuple(Wish(entry, entry, plan.state_of(entry)) for entry in off)
        place.switch(Order(plan.key, plan.job, user_name(plan.user), wishes))
    return True


def _as_user(user: int, work: Callable[[Place], T], kind: type[T]) -> T:
    """What ``work`` gives as a user, in a process of its own. Raises Trouble."""
    ours, theirs = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(ours)
        _work_as_user(user, work, theirs)
    os.close(theirs)
    with os.fdopen(ours, "rb") as pipe:
        answer = pipe.read(LARGEST_BYTES)
    os.waitpid(child, 0)
    try:
        return msgspec.json.decode(answer, type=kind)
    except msgspec.DecodeError as error:
        raise Trouble(TroubleCode.NIGHT_SHIFT_NOT_SWITCHED) from error


def _work_as_user(user: int, work: Callable[[Place], object], descriptor: int) -> None:
    """The process of the user: it ends here, whatever happens."""
    try:
        home = homes()[user]
        become(user)
        run = f"{RUN}/{user}"
        os.environ.update(
            HOME=str(home), XDG_RUNTIME_DIR=run, DBUS_SESSION_BUS_ADDRESS=f"unix:path={run}/bus"
        )
        given = work(Place("user", Folders.of({}, home)))
        with os.fdopen(descriptor, "wb") as pipe:
            pipe.write(msgspec.json.encode(given))
    except BaseException as error:  # noqa: BLE001 whatever it is, it is over with this process
        sys.stderr.write(f"night shift, as the user: {error!r:.400}\n")
        sys.stderr.flush()
    finally:
        os._exit(0)
