"""The slow look: what a PC does in the minutes after it has settled, for work that was only moved.

Nothing waits for it: the recording before it is whole, and a shutdown ends it.
"""

from plucky_ledger.capture.sampling.recorder import Writer
from plucky_ledger.capture.sampling.source import Clock, RecordingSource
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.recording.lines import SampleLine

STEP_SECONDS = 10.0
MOST_OF_A_CORE = 0.001
"""Share of one core that it may take: where a sample costs more, they come less often."""


def look_on(
    source: RecordingSource, clock: Clock, writer: Writer, for_seconds: float
) -> ReasonCode:
    """Go on with a recording that was finished to go on. Returns why it ended.

    Raises:
        RecordingStopped: from the writer; what was written before is kept.
    """
    begin = clock.now()
    step, end = begin + STEP_SECONDS, begin + for_seconds
    spent: float | None = None
    reason: ReasonCode | None = None
    while reason is None:
        if step > end + 1e-9:
            reason = ReasonCode.TIME_WAS_UP
        elif writer.nearly_full:
            reason = ReasonCode.RECORDING_FULL
        elif not clock.sleep_until(step):
            reason = ReasonCode.STOPPED_BY_HAND
        else:
            lines = source.sample()
            writer.write(lines)
            sample = lines[-1]
            assert isinstance(sample, SampleLine)
            # What was spent before the first was on the recording's closing lines.
            cost = 0.0 if spent is None else sample.own_cpu_seconds - spent
            step += max(STEP_SECONDS, cost / MOST_OF_A_CORE)
            spent = sample.own_cpu_seconds
    writer.finish(reason.value)
    return reason
