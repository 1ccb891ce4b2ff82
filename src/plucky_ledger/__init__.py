"""Plucky Ledger keeps the account of what a PC's startup costs."""

import sys

__version__ = "0.1.0"
CARRIED = False
"""Whether this came on a stick, as one file, or is the copy that such a file left on a PC."""

if sys.version_info < (3, 11):  # noqa: UP036 nothing else of this package could be read by it
    sys.exit("Plucky Ledger needs Python 3.11 or later; this is %d.%d." % sys.version_info[:2])  # noqa: UP031
