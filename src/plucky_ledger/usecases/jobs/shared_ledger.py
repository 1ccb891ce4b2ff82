"""A ledger that a workshop shares: set up, opened to people, brought up to date, moved, kept."""

import platform
from collections.abc import Callable
from pathlib import Path

from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.users import user_name
from plucky_ledger.store import moving, server_setup
from plucky_ledger.store.address import Address
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.server_secret import keep_secret, use_secret
from plucky_ledger.store.server_setup import Groups

__all__ = [
    "Groups",
    "add_user",
    "create",
    "keep_secret",
    "move",
    "save_dump",
    "upgrade",
    "use_secret",
]


def _who() -> str:
    return f"{user_name()}@{platform.node()}"


def _on_server(address: Address) -> Address:
    if address.file is not None:
        raise Refused(TroubleCode.LEDGER_KIND_UNKNOWN, address=address.text)
    return address


def create(address: Address) -> Groups:
    """Make a ledger in an empty database; returns the groups of its users. Raises Trouble."""
    return server_setup.set_up(_on_server(address), _who())


def upgrade(address: Address, dump: Path, waiting: Callable[[tuple[str, ...]], bool]) -> bool:
    """Bring a server's ledger up to date once nobody else has it open, after a dump was written;
    False where there was nothing to do. Raises Trouble.
    """
    _refuse_existing(dump)
    return server_setup.upgrade(_on_server(address), _who(), dump, waiting)


def add_user(address: Address, name: str, password: str, *, reads_only: bool) -> None:
    """Let somebody in. Raises Trouble."""
    server_setup.add_user(_on_server(address), _who(), name, password, reads_only=reads_only)


def save_dump(address: Address, file: Path) -> None:
    """Write the whole ledger into a file. Raises Trouble."""
    _refuse_existing(file)
    server_setup.dump_into(_on_server(address), file)


def move(source: Address, target: Address, report: moving.Report) -> int:
    """Copy a ledger into another, empty one, and compare both; returns how many rows there are. The
    one it comes from is left as it is.

    Raises:
        Trouble: the target is not empty, or cannot be written, or something came across wrongly.
    """
    if source.is_missing:
        raise Refused(TroubleCode.LEDGER_NOT_THERE, path=source.text)
    with Ledger(source) as there, Ledger(target) as here:
        if here.read_only_because is not None:
            raise here.read_only_because
        return moving.move(there, here, report)


def _refuse_existing(file: Path) -> None:
    if file.exists():
        raise Refused(TroubleCode.FILE_EXISTS, path=str(file))
