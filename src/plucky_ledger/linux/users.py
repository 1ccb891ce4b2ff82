"""Users: who owns what, where they live, and acting as one of them."""

import os
import pwd
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from plucky_ledger.core.entries.kinds import FIRST_PERSON
from plucky_ledger.core.values.trouble import Trouble, TroubleCode

ADMINISTRATOR = 0
NOBODY = 65534
"""The account that owns what is nobody's."""


def is_person(user: int) -> bool:
    """Whether this is a person's account: no system account, no sign-in screen's."""
    return user == ADMINISTRATOR or (user >= FIRST_PERSON and user != NOBODY)


def is_administrator() -> bool:
    """Whether this process may do anything."""
    return os.geteuid() == ADMINISTRATOR


def own_home() -> Path:
    """The home folder of who runs this process; the root folder for who has none.

    The administrator's is the one in the list of users: the environment may be somebody else's.
    """
    try:
        return Path(pwd.getpwuid(0).pw_dir) if is_administrator() else Path.home()
    except (RuntimeError, KeyError):
        return Path("/")


def user_name(user: int | None = None) -> str:
    """Name of a user, by default of who runs this process; their number where there is none."""
    number = os.geteuid() if user is None else user
    try:
        return pwd.getpwuid(number).pw_name
    except KeyError:
        return str(number)


def homes() -> dict[int, Path]:
    """Home folders of all users of this PC that have one, by the user's number."""
    return {
        known.pw_uid: Path(known.pw_dir)
        for known in pwd.getpwall()
        if known.pw_dir.startswith("/") and os.path.isdir(known.pw_dir)
    }


def home_of(user: int) -> Path:
    """A user's home folder. Raises Trouble where there is no such user, or no such folder."""
    home = homes().get(user)
    if home is None:
        raise Trouble(TroubleCode.USER_WITHOUT_HOME, name=user_name(user))
    return home


@contextmanager
def acting_as(user: int) -> Iterator[None]:
    """Let the administrator be this user meanwhile: with their rights to files and no others.

    It holds for all threads of the process. The user cannot reach the process meanwhile: who it
    really is stays the administrator. Who is no administrator stays who they are.
    """
    if not is_administrator() or user == ADMINISTRATOR:
        yield
        return
    groups, group = os.getgroups(), os.getegid()
    theirs = groups_of(user)
    os.setgroups(theirs)
    os.setegid(theirs[0])
    os.seteuid(user)
    try:
        yield
    finally:
        os.seteuid(ADMINISTRATOR)
        os.setegid(group)
        os.setgroups(groups)


def become(user: int) -> None:
    """Be this user for good, with their rights and no others; for a process of its own."""
    groups = groups_of(user)
    os.setgroups(groups)
    os.setresgid(groups[0], groups[0], groups[0])
    os.setresuid(user, user, user)


def groups_of(user: int) -> list[int]:
    """A user's groups, their own first."""
    try:
        account = pwd.getpwuid(user)
    except KeyError:
        return [user]
    others = os.getgrouplist(account.pw_name, account.pw_gid)
    return [account.pw_gid, *(group for group in others if group != account.pw_gid)]
