"""The boot that a plan is expected to make, as a page to be laid over the observed one."""

from dataclasses import replace

from plucky_ledger.core.replay.preview import Earlier, Preview
from plucky_ledger.core.replay.voices import Voice, Voices
from plucky_ledger.pages.lanes import Flag, Lane, LanesPage

NO_EARLIER = Earlier(0.0, 0.0)


def preview_page(page: LanesPage, preview: Preview) -> LanesPage:
    """The lanes of a boot as they are expected to be: nothing moves that the plan does not move."""
    cores = page.voices.cores if page.voices else 1
    voices = Voices(
        preview.edges,
        Voice.alone(preview.cpu, preview.drive),
        {name: Voice.alone(*both) for name, both in preview.voices.items()},
        cores,
    )
    return replace(
        page,
        flags=tuple(
            Flag(flag.mark, flag.seconds - preview.marks.get(flag.mark, 0.0)) for flag in page.flags
        ),
        lanes=tuple(
            _moved(lane, preview.entries.get(lane.entry_id, NO_EARLIER), voices)
            for lane in page.lanes
            if lane.entry_id not in preview.missing
        ),
        strips=(),
        voices=voices,
        chain=None,
    )


def _moved(lane: Lane, earlier: Earlier, voices: Voices) -> Lane:
    begins, is_up = earlier.begins, earlier.is_up
    return replace(
        lane,
        waiting=lane.waiting and (lane.waiting[0], max(lane.waiting[0], lane.waiting[1] - begins)),
        starting=lane.starting and _in_order(lane.starting[0] - begins, lane.starting[1] - is_up),
        running=lane.running and _in_order(lane.running[0] - is_up, lane.running[1]),
        voice=voices.of.get(lane.entry_id),
    )


def _in_order(start: float, end: float) -> tuple[float, float]:
    return start, max(start, end)
