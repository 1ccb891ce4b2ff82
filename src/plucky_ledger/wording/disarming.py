"""Disarming in words: by itself, because it happens while a PC starts and has to be quick."""

from plucky_ledger.wording.language import say


def disarmed(was_armed: bool) -> str:
    """What disarming did."""
    if was_armed:
        return say("Disarmed; every trace is removed.")
    return say("It was not armed.")
