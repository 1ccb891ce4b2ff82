"""What this program asks the administrator to do for a user: ``plucky-ledger administer …``.

No command for people: it is run by this program itself, through what asks for the administrator.
"""

import os
import sys
from collections.abc import Sequence

import msgspec

from plucky_ledger.capture.administrator import IN_TROUBLE, carry_out, told_as_json
from plucky_ledger.core.trouble import Trouble


def main(wish: Sequence[str]) -> int:
    """Carry one wish out; returns the exit status."""
    try:
        sys.stdout.buffer.write(carry_out(wish, os.environ))
    except Trouble as trouble:
        sys.stdout.buffer.write(told_as_json(trouble))
        return IN_TROUBLE
    except (ValueError, msgspec.DecodeError) as error:
        sys.stderr.write(f"{error}\n")
        return 2
    return 0
