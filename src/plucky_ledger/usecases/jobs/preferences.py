"""What this user prefers, whichever ledger is open: a file where the desktop keeps such files."""

import logging
from pathlib import Path
from typing import Annotated, Literal

import msgspec

from plucky_ledger.core.pc.arming import LONGEST_LOOK_SECONDS, LOOK_SECONDS, MOST_BOOTS
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import make_folder, read_bounded, write_whole
from plucky_ledger.usecases.jobs.workplace import PREFERENCES, config_folder

LARGEST_BYTES = 65_536
LARGEST_MARK_BYTES = 2_000_000
LogLevel = Literal["warning", "info", "debug"]
StatementPart = Literal["details", "entries", "boots", "starts", "signature"]
"""What a statement need not have: the pages for whoever works on the PC next, parts of them, or a
place to sign."""
log = logging.getLogger(__name__)


class Preferences(msgspec.Struct, frozen=True):
    """Everything that is preferred; what the file does not say is as it is here."""

    boots: Annotated[int, msgspec.Meta(ge=1, le=MOST_BOOTS)] = 3
    """How many boots are armed at once."""
    look_minutes: Annotated[float, msgspec.Meta(ge=0, le=LONGEST_LOOK_SECONDS / 60)] = (
        LOOK_SECONDS / 60
    )
    """For how long an armed recorder looks on after the PC has settled; 0 for not at all."""
    log_level: LogLevel = "info"
    language: str = ""
    """Code of the language that words are in, such as "de"; empty for the system's."""
    drop_folder: str = ""
    """Path of a folder into which recordings come from elsewhere; empty for none."""
    workshop: str = ""
    """The workshop's name, which heads statements; empty for none."""
    address: str = ""
    """How it is reached: lines of text below its name."""
    mark: str = ""
    """Path of a picture that stands beside them (PNG or JPEG); empty for none."""
    statement_language: str = ""
    """Code of the language that statements are in; empty for the one in use."""
    statement_leaves_out: frozenset[StatementPart] = frozenset()


def preferences_file() -> Path | None:
    """Where they are kept; None for a user without a home."""
    folder = config_folder()
    return folder / PREFERENCES if folder is not None else None


def read_preferences() -> Preferences:
    """What is preferred; the usual where nothing is kept, or what is kept cannot be read."""
    file = preferences_file()
    try:
        if file is not None:
            return msgspec.json.decode(read_bounded(file, LARGEST_BYTES), type=Preferences)
    except FileNotFoundError:
        log.debug("no preferences are kept")
    except (OSError, msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        log.warning("%s is left out: %s", file, error)
    return Preferences()


def workshop_mark(path: str) -> bytes:
    """The picture of the workshop's mark; empty where none is named or it cannot be read."""
    try:
        return read_bounded(Path(path), LARGEST_MARK_BYTES) if path else b""
    except OSError as error:
        log.warning("%s is left out: %s", path, error)
        return b""


def keep_preferences(wanted: Preferences) -> None:
    """Keep them for the next start as well. Raises Trouble where they cannot be written."""
    file = preferences_file()
    if file is None:
        raise Trouble(TroubleCode.NO_HOME)
    try:
        make_folder(file.parent)
        write_whole(file, msgspec.json.format(msgspec.json.encode(wanted)) + b"\n", mode=0o600)
    except OSError as error:
        raise Trouble(
            TroubleCode.FILE_NOT_WRITTEN, path=str(file), system=error.strerror or ""
        ) from error
