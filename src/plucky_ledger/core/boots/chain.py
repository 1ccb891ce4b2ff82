"""Critical chain of a mark: which activity waited for which, back to the start.

From the activity that ended last before the mark, each step goes back to the one, among those it is
ordered after, that was up last before it could begin. A wait that no ordering explains ends the
chain.
"""

from dataclasses import dataclass

from plucky_ledger.core.boots.timeline import Activity

LATEST_START_SECONDS = 3.0
"""A predecessor that was up longer ago than this did not hold up the one after it."""


SLACK_SECONDS = 0.25
"""How much later a message about an end may come than the start it allowed."""
MARK_SLACK_SECONDS = 1.5
"""Settled lies between two samples; what ended just after it may have held it up."""


@dataclass(frozen=True)
class ChainLink:
    """One activity of the chain. Seconds."""

    entry_id: str
    start: float
    """Where the thread enters: its waiting ended, or it began."""
    end: float
    """Where the thread leaves: it was up."""


def chain_to(
    mark: float,
    activities: tuple[Activity, ...],
    among: frozenset[str] | None = None,
    sign_in: tuple[float, float] | None = None,
) -> tuple[ChainLink, ...]:
    """The chain that ends at ``mark`` (seconds), first link first; empty when nothing led to it.

    ``among`` limits where the chain may end; the links before may be anything. ``sign_in`` is when
    the sign-in was shown and done: the thread crosses the wait, which is nobody's.
    """
    up = {a.entry_id: a for a in activities if _end(a) is not None and a.starting_from is not None}
    ends = [
        a
        for a in up.values()
        if _ended_by(a, mark, MARK_SLACK_SECONDS) and (among is None or a.entry_id in among)
    ]
    if not ends:
        return ()
    links: list[ChainLink] = []
    current: Activity | None = max(ends, key=_sure_end)
    seen: set[str] = set()
    while current is not None and current.entry_id not in seen:
        seen.add(current.entry_id)
        begin = current.starting_from
        assert begin is not None
        links.append(ChainLink(current.entry_id, begin, _sure_end(current)))
        current = _holder(current, up, sign_in)
    return tuple(reversed(links))


def _holder(
    activity: Activity, up: dict[str, Activity], sign_in: tuple[float, float] | None
) -> Activity | None:
    """The predecessor that ``activity`` waited for last, if any."""
    begin = activity.starting_from
    assert begin is not None
    candidates = [up[name] for name in activity.after if name in up and _ended_by(up[name], begin)]
    if not candidates and not activity.after:
        asked = activity.waiting_from if activity.waiting_from is not None else begin
        if sign_in is not None and asked >= sign_in[1] - SLACK_SECONDS:
            asked = sign_in[0]
        candidates = [
            a
            for a in up.values()
            if a is not activity
            and _ended_by(a, asked)
            and asked - _sure_end(a) < LATEST_START_SECONDS
        ]
    return max(candidates, key=_sure_end, default=None)


def _end(activity: Activity) -> float | None:
    return activity.up_at if activity.up_at is not None else activity.ended_at


def _sure_end(activity: Activity) -> float:
    end = _end(activity)
    assert end is not None
    return end


def _ended_by(activity: Activity, instant: float, slack: float = SLACK_SECONDS) -> bool:
    return _sure_end(activity) <= instant + slack
