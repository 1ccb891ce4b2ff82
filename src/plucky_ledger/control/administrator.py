"""The part of switching that needs the administrator: the system's units, and their journal; and
what other people's sign-in starts.
"""

from collections.abc import Mapping
from typing import TypeVar

import msgspec

from plucky_ledger.control import other_people
from plucky_ledger.control.journal_of_changes import EntryChange
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope
from plucky_ledger.control.stop import stop_unit
from plucky_ledger.core.entries.kinds import is_users_own
from plucky_ledger.core.entries.switching import Switched
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.administrator import answered, who_asks
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import user_name

T = TypeVar("T")
SWITCH, PUT_BACK, STOP = "switch", "put-back", "stop"
REQUESTS = TAKE_AN_ORDER = frozenset({SWITCH, PUT_BACK, STOP})


def switch(order: SwitchRequest) -> list[Switched]:
    """Set units of the system as requested. Raises Trouble; everything is as it was then."""
    return _answered(answered(carry_out, SWITCH, msgspec.json.encode(order)), list[Switched])


def put_back(which: RevertSelection) -> list[EntryChange]:
    """Undo changes to units of the system. Raises Trouble."""
    return _answered(answered(carry_out, PUT_BACK, msgspec.json.encode(which)), list[EntryChange])


def stop(unit: str) -> None:
    """End a running service of the system. Raises Trouble."""
    answered(carry_out, STOP, msgspec.json.encode(unit))


def _answered(answer: bytes, kind: type[T]) -> T:
    try:
        return msgspec.json.decode(answer, type=kind)
    except msgspec.DecodeError as error:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR) from error


def carry_out(request: str, order: bytes, environment: Mapping[str, str]) -> bytes:
    """Do what is requested, as the administrator; returns the answer for who asked.

    Raises:
        Trouble: it could not be done.
        ValueError: that is no order.
    """
    place = Scope("system", Folders.of_this_user())
    match request:
        case "switch":
            switch = msgspec.json.decode(order, type=SwitchRequest)
            who = who_asks(environment)
            if who is not None:  # the requesting user cannot be recorded under another name
                switch = msgspec.structs.replace(switch, by=user_name(who))
            if any(is_users_own(w.entry_id) for w in switch.wishes):
                raise ValueError("these are not the system's")
            return msgspec.json.encode(other_people.switch(place, switch))
        case "put-back":
            which = msgspec.json.decode(order, type=RevertSelection)
            return msgspec.json.encode(other_people.put_back(place, which))
        case "stop":
            stop_unit(msgspec.json.decode(order, type=str), "SYSTEM")
            return b""
        case _:
            raise ValueError("nothing the administrator does")
