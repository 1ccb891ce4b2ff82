"""Looking a program up: at a search address of the workshop's choice, in the user's own browser."""

from urllib.parse import quote, urlsplit

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.entries.entry import EntryKind, EntryOwner, StartupEntry
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.store.workshop import setting, write_setting
from plucky_ledger.usecases.changing.decisions import decide

ADDRESS = "search address"
NAME = "{name}"
PROGRAM = "program:"
"""How ids of programs begin that no entry starts."""


def search_address(ledger: Ledger) -> str:
    """The workshop's search address; empty where none is set, or what is set is none: a ledger may
    come from anywhere.
    """
    with ledger.session() as session:
        address = setting(session, ADDRESS, str) or ""
    return address if _is_search_address(address) else ""


def _is_search_address(address: str) -> bool:
    """Whether it leads to a secure address, with one place for a program's name and no other."""
    try:
        parts = urlsplit(address)
    except ValueError:
        return False
    plain = address.isprintable() and not any(char.isspace() for char in address)
    host = bool(parts.hostname) and NAME not in parts.netloc
    return parts.scheme == "https" and host and plain and address.count(NAME) == 1


def set_search_address(ledger: Ledger, address: str) -> None:
    """Set it; an empty one is none.

    Raises:
        Refused: it is no address with room for a name.
    """
    template = address.strip()
    if template and not _is_search_address(template):
        raise Refused(TroubleCode.NOT_A_SEARCH_ADDRESS, name=NAME)
    with step(ledger, StepCode.SET_SEARCH_ADDRESS, None) as session:
        write_setting(session, ADDRESS, template)


def address_for(ledger: Ledger, name: str) -> str:
    """Where a program is looked up. Nothing is sent by this.

    Raises:
        Refused: the workshop has set no address.
    """
    address = search_address(ledger)
    if not address:
        raise Refused(TroubleCode.NO_SEARCH_ADDRESS)
    return address.replace(NAME, quote(name, safe=""))


def look_up_program(
    ledger: Ledger, number: int, name: str, path: str, entry: StartupEntry | None
) -> None:
    """Put a program on the look-up list: its entry where it has one, else the program itself."""
    described = entry or StartupEntry(
        entry_id=f"{PROGRAM}{path or name}",
        name=name,
        owner=EntryOwner.UNKNOWN,
        kind=EntryKind.UNKNOWN,
        origin="",
        command=path,
        executable=path,
    )
    decide(ledger, number, [described], Decision.LOOK_UP)
