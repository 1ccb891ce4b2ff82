"""What only the administrator may do for control: the system's units, and their journal."""

from collections.abc import Mapping, Sequence
from typing import TypeVar

import msgspec

from plucky_ledger.control.journal import EntryChange
from plucky_ledger.control.orders import Order, Which
from plucky_ledger.control.place import Place, is_users_own
from plucky_ledger.control.stop import stop_unit
from plucky_ledger.core.entries.switching import Switched
from plucky_ledger.core.trouble import Refused, TroubleCode
from plucky_ledger.linux.administrator import answered, who_asks
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import user_name

T = TypeVar("T")
SWITCH, PUT_BACK, STOP = "switch", "put-back", "stop"
WISHES = frozenset({SWITCH, PUT_BACK, STOP})


def switch(order: Order) -> list[Switched]:
    """Set units of the system as ordered. Raises Trouble; everything is as it was then."""
    return _answered(
        answered(carry_out, SWITCH, msgspec.json.encode(order).decode()), list[Switched]
    )


def put_back(which: Which) -> list[EntryChange]:
    """Undo changes to units of the system. Raises Trouble."""
    return _answered(
        answered(carry_out, PUT_BACK, msgspec.json.encode(which).decode()), list[EntryChange]
    )


def stop(unit: str) -> None:
    """End a running service of the system. Raises Trouble."""
    answered(carry_out, STOP, unit)


def _answered(answer: bytes, kind: type[T]) -> T:
    try:
        return msgspec.json.decode(answer, type=kind)
    except msgspec.DecodeError as error:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR) from error


def carry_out(wish: Sequence[str], environment: Mapping[str, str]) -> bytes:
    """Do what is wished, as the administrator; returns the answer for who asked.

    Raises:
        Trouble: it could not be done.
        ValueError: that is no wish.
    """
    place = Place("system", Folders.of_this_user())
    match list(wish):
        case ["switch", text]:
            order = msgspec.json.decode(text, type=Order)
            who = who_asks(environment)
            if who is not None:  # whoever asked cannot have it written down as somebody else
                order = msgspec.structs.replace(order, by=user_name(who))
            if any(is_users_own(w.entry_id) for w in order.wishes):
                raise ValueError("these are not the system's")
            return msgspec.json.encode(place.switch(order))
        case ["put-back", text]:
            return msgspec.json.encode(place.put_back(msgspec.json.decode(text, type=Which)))
        case ["stop", unit]:
            stop_unit(unit, "SYSTEM")
            return b""
        case _:
            raise ValueError(f"{' '.join(wish)}: nothing the administrator does")
