"""What this program asks the administrator to do for a user: ``plucky-ledger administer …``.

No command for people: it is run by this program itself, through what asks for the administrator.
"""

import os
import sys
from collections.abc import Sequence

import msgspec

from plucky_ledger.capture import administrator as of_recording
from plucky_ledger.control import administrator as of_control
from plucky_ledger.core.trouble import Trouble
from plucky_ledger.linux.administrator import IN_TROUBLE, told_as_json
from plucky_ledger.night import administrator as of_night


def _carry_out(wish: Sequence[str]) -> bytes:
    first = wish[0] if wish else ""
    if first in of_control.WISHES:
        return of_control.carry_out(wish, os.environ)
    if first in of_night.WISHES:
        return of_night.carry_out(wish, os.environ)
    return of_recording.carry_out(wish, os.environ)


def main(wish: Sequence[str]) -> int:
    """Carry one wish out; returns the exit status."""
    try:
        sys.stdout.buffer.write(_carry_out(wish))
    except Trouble as trouble:
        sys.stdout.buffer.write(told_as_json(trouble))
        return IN_TROUBLE
    except (ValueError, msgspec.DecodeError) as error:
        sys.stderr.write(f"{error}\n")
        return 2
    return 0
