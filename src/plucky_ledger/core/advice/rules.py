"""The rules as data: from where on each holds, what it takes to follow it, and how urgent it is.

Sources and counter-cases are in manual/methods.md, one paragraph a rule.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.job.advised import RuleCode

DAY_SECONDS = 86_400.0
LEAST_SECONDS = 2.0
"""What wins less is not worth a part."""
LEAST_SHARE = 0.05
"""The same as a share of settled."""
BUSY_DRIVE = 0.5
"""Share of the start-up in which the drive has work."""
QUICK_BYTES_PER_SECOND = 150e6
"""A drive that moves as much while it works is as quick as they come, and just has much to do."""
BUSY_CORES = 0.6
"""Share of all cores that work, over the start-up."""
NEARLY_ALL = 0.75
"""The same, of either, where a PC never settles and no replay can tell."""
FULL_MEMORY = 0.85
"""Share of the memory held at rest."""
MUCH_MEMORY = 0.5
"""The same, with what lies in swap, where programs wait for memory or it is swapped."""
WAITS_FOR_MEMORY = 0.1
"""Share of the start-up in which some program waits for memory."""
SWAPPED_SHARE = 0.1
"""Of the memory's size that lies on a drive."""
ROOM_PER_MEMORY = 2.0
"""A rule of the trade: free room of at least two to three times the memory."""
LEAST_FREE = 0.05
"""Share of a file system, and of its files, that is to stay free."""
MOST_WANTED_BYTES = 20e9
"""More than this need not stay free for that."""
LONG_UP_DAYS = 14.0
RESUMED_SHARE = 0.5
FEW_STARTS = 2
THROTTLES = 10
LIMITED_FREQUENCY = 0.9
LOADER_SECONDS = 4.0
"""A loader that waits for nobody hands over sooner."""
LONG_WAIT_SECONDS = 5.0
IDLE_SHARE = 0.1
"""CPU work of a wait for something else, as a share of its length."""
MANY_FAILED = 3
MANY_RESTARTS = 4
GROWN = 1.5
UPDATES_SHARE = 0.5
DRIVE_ERRORS = 3
BAD_SECTORS = 1
WORN_OUT = 0.95
"""Share of a solid-state drive's life that is used up."""
BEYOND_STOCK_SHARE = 0.5
BEYOND_STOCK_PROCESSES = 40


class Effort(StrEnum):
    """What it takes to follow a piece of advice."""

    MINUTES = "minutes"
    HOUR = "hour"
    PART = "part"
    """Something has to be bought and fitted."""


@dataclass(frozen=True)
class AdviceRule:
    """What a rule's findings have in common."""

    effort: Effort
    weight: float
    """Seconds it counts as where no replay can tell; the data in danger count above all."""


RULES: Mapping[RuleCode, AdviceRule] = {
    RuleCode.FAILING_DRIVE: AdviceRule(Effort.PART, 1e6),
    RuleCode.DRIVE_PINNED: AdviceRule(Effort.PART, 20.0),
    RuleCode.PROCESSOR_PINNED: AdviceRule(Effort.PART, 15.0),
    RuleCode.MEMORY_FULL: AdviceRule(Effort.PART, 12.0),
    RuleCode.LITTLE_ROOM: AdviceRule(Effort.HOUR, 4.0),
    RuleCode.NOT_RESTARTED: AdviceRule(Effort.MINUTES, 5.0),
    RuleCode.FAST_START: AdviceRule(Effort.MINUTES, 2.0),
    RuleCode.HEAT: AdviceRule(Effort.HOUR, 6.0),
    RuleCode.HELD_DOWN: AdviceRule(Effort.MINUTES, 4.0),
    RuleCode.LOADER_WAITS: AdviceRule(Effort.MINUTES, 0.0),
    RuleCode.NEVER_COMES: AdviceRule(Effort.MINUTES, 0.0),
    RuleCode.MANY_FAILED: AdviceRule(Effort.HOUR, 1.0),
    RuleCode.RESTARTS_ITSELF: AdviceRule(Effort.MINUTES, 2.0),
    RuleCode.MEMORY_GROWS: AdviceRule(Effort.HOUR, 3.0),
    RuleCode.SAME_JOB: AdviceRule(Effort.HOUR, 3.0),
    RuleCode.UPDATES_AT_SIGN_IN: AdviceRule(Effort.MINUTES, 3.0),
    RuleCode.BEYOND_STOCK: AdviceRule(Effort.HOUR, 1.0),
    RuleCode.CHECK_DUE: AdviceRule(Effort.MINUTES, 4.0),
}

EFFORT_COUNTS: Mapping[Effort, float] = {
    Effort.MINUTES: 1.0,
    Effort.HOUR: 2.0,
    Effort.PART: 4.0,
}
"""By how much more a finding has to win to stand before one that takes minutes."""
