"""What this program asks the administrator to do for a user: ``plucky-ledger administer …``.

No command for people: it is run by this program itself, through what asks for the administrator.
"""

import os
import sys
from collections.abc import Sequence

import msgspec

from plucky_ledger.capture import administrator as of_recording
from plucky_ledger.control import administrator as of_control
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.administrator import IN_TROUBLE, read_order, told_as_json
from plucky_ledger.night import administrator as of_night

TAKE_AN_ORDER = of_control.TAKE_AN_ORDER | of_night.TAKE_AN_ORDER | of_recording.TAKE_AN_ORDER
WITHOUT_ORDER, NO_REQUEST = b"", 2


def _carry_out(request: str) -> bytes:
    order = read_order() if request in TAKE_AN_ORDER else WITHOUT_ORDER
    if request in of_control.REQUESTS:
        return of_control.carry_out(request, order, os.environ)
    if request in of_night.REQUESTS:
        return of_night.carry_out(request, order, os.environ)
    return of_recording.carry_out(request, order, os.environ)


def main(arguments: Sequence[str]) -> int:
    """Carry one request out; returns the exit status."""
    try:
        (request,) = arguments
        sys.stdout.buffer.write(_carry_out(request))
    except Trouble as trouble:
        sys.stdout.buffer.write(told_as_json(trouble))
        return IN_TROUBLE
    except (ValueError, msgspec.DecodeError, RecursionError) as error:
        sys.stderr.write(f"{error}\n")
        return NO_REQUEST
    return 0
