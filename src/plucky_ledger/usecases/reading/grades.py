"""Thresholds of the grades, as the workshop has set them."""

from plucky_ledger.core.replay.grades import GradeThresholds
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.store.workshop import setting, write_setting

THRESHOLDS = "grade thresholds"


def thresholds(ledger: Ledger) -> GradeThresholds:
    """The shares as they are set."""
    with ledger.session() as session:
        return setting(session, THRESHOLDS, GradeThresholds) or GradeThresholds()


def set_thresholds(ledger: Ledger, wanted: GradeThresholds) -> None:
    """Change the shares.

    Raises:
        Refused: they are not in order.
    """
    if not 0 < wanted.light < wanted.moderate < wanted.heavy <= 1:
        raise Refused(TroubleCode.GRADES_NOT_IN_ORDER)
    with step(ledger, StepCode.CHANGE_GRADES, None) as session:
        write_setting(session, THRESHOLDS, wanted)
