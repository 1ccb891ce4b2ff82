"""What is told on the desktop of whoever is signed in, where nobody looks at a window of ours."""

import os

from plucky_ledger.linux import notifications


def show_on_the_desktop(sentence: str) -> None:
    """Show it to whose process this is; where there is no desktop, only the log knows."""
    notifications.notify(sentence, os.geteuid())
