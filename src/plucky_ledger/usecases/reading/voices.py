"""What each entry did over a boot, and what it would have done alone."""

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.replay.voices import Voices, voices_of


def boot_voices(analysis: Analysis) -> Voices | None:
    """The voices of a boot; None where it has no samples to tell them by. Takes a moment."""
    return voices_of(analysis)
