"""What there is to say of the program itself."""

import platform
from pathlib import Path

from plucky_ledger import __version__
from plucky_ledger.wording.language import say


def about(ledger: Path, logs: Path) -> str:
    """Version, and where things are, one line each."""
    return "\n".join(
        (
            f"Plucky Ledger {__version__}",
            say("Keeps the account of what a PC's startup costs, and of what was saved."),
            "",
            say("This ledger: {path}", path=str(ledger)),
            say("Log: {path}", path=str(logs)),
            f"Python {platform.python_version()}",
            "",
            say("Nothing is sent anywhere by itself."),
            say(
                "Under the Apache License 2.0. It uses Qt under the LGPL 3.0, and other packages "
                "each under its own licence: the file NOTICE names them."
            ),
        )
    )
