"""Which boots of a round can be replayed, and up to when each is of interest."""

from collections.abc import Sequence

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.marks import human_wait
from plucky_ledger.core.replay.startup_cost import not_watched
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode


def that_can_be_replayed(boots: Sequence[Analysis]) -> tuple[list[Analysis], Reason | None]:
    """Boots that can be replayed, and why settled can be told of none."""
    counting = [analysis for analysis in boots if analysis.boot.counts]
    starts = [analysis for analysis in counting if analysis.boot.is_start]
    if counting and not starts:
        return [], Reason(ReasonCode.ONLY_AT_REST)
    sampled = [
        analysis
        for analysis in starts
        if analysis.timeline.runs and analysis.timeline.samples is not None
    ]
    if not sampled:
        ways = "|".join(sorted({analysis.boot.how for analysis in starts}))
        return [], not_watched(ways) if ways else Reason(ReasonCode.NO_BOOT)
    listed = [analysis for analysis in sampled if analysis.timeline.entries]
    if not listed:
        return [], Reason(ReasonCode.NO_ENTRIES)
    # A sleep cannot be told from waiting.
    listed = [analysis for analysis in listed if not analysis.boot.context.suspended_seconds]
    if not listed:
        return [], Reason(ReasonCode.SLEPT)
    ever = any(settled_at(analysis.boot) is not None for analysis in listed)
    return listed, None if ever else Reason(ReasonCode.NEVER_SETTLED)


def last_of_interest(analysis: Analysis) -> float:
    """Last mark of a boot that never settled; what follows delays no mark."""
    marks = analysis.boot.marks
    return max([0.0, *marks.values()])


def settled_at(boot: Boot) -> float | None:
    """When a boot settled, in seconds since the kernel started; None when nobody knows."""
    reading = boot.readings.get(Measure.SETTLED)
    if reading is None or reading.censored:
        return None
    return reading.value + human_wait(boot.marks)
