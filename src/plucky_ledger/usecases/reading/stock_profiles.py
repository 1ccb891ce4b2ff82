"""Stock profiles: saving the picture of a fresh PC, and finding it again."""

from dataclasses import replace

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.stock import StockProfile, picture_of
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store import workshop as stored
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step


def stock_profiles(ledger: Ledger) -> dict[str, StockProfile]:
    """The workshop's stock profiles by name."""
    with ledger.session() as session:
        return {profile.name: profile for profile in stored.profiles(session)}


def save_stock_profile(ledger: Ledger, number: int, analysis: Analysis, name: str) -> None:
    """Save what runs and starts at rest in a job's boot as a stock profile.

    Raises:
        Refused: no name, or no program was watched in this boot.
    """
    if not name.strip():
        raise Refused(TroubleCode.NO_PROFILE_NAME)
    if not analysis.timeline.runs:
        raise Refused(TroubleCode.NO_PROGRAM_WATCHED)
    with step(ledger, StepCode.SAVE_PROFILE, number, name=name.strip()) as session:
        facts = read_job(session, number).facts
        taken = replace(picture_of(analysis, name.strip()), os_release=facts.os_release)
        stored.add_profile(session, taken)
