"""Users: who owns what, and where they live."""

import os
import pwd
from pathlib import Path


def is_administrator() -> bool:
    """Whether this process may do anything."""
    return os.geteuid() == 0


def home_of(user: str) -> Path | None:
    """A user's home folder; None where nobody is called so."""
    try:
        return Path(pwd.getpwnam(user).pw_dir)
    except KeyError:
        return None


def user_name() -> str:
    """Who runs this process, by name where there is one."""
    try:
        return pwd.getpwuid(os.geteuid()).pw_name
    except KeyError:
        return str(os.geteuid())


def give_to_owner_of(folder: Path, *paths: Path) -> None:
    """Hand files to whoever owns ``folder``, if we are the administrator and it is not ours.

    Otherwise a recording made early in the boot, or a lock left by a command run as administrator,
    could not be read by the technician's own window.
    """
    if not is_administrator():
        return
    owner = folder.stat()
    for path in paths:
        os.chown(path, owner.st_uid, owner.st_gid, follow_symlinks=False)
