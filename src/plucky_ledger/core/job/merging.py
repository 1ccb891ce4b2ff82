"""The same job from two benches brought together: its postings in their order, its plan one."""

import json
from collections.abc import Mapping
from dataclasses import replace

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.parts import (
    GONE,
    Content,
    Merged,
    Part,
    Side,
    canonical,
    merge,
    of_kind,
)

POSTING, DECISION = "posting", "decision"
LEAVE_IT_ON = frozenset({Decision.KEEP, Decision.LOOK_UP})
"""Decisions from which no change follows."""


def merge_jobs(
    ours: Mapping[str, Part],
    theirs: Mapping[str, Part],
    chosen: Mapping[str, Side] | None = None,
) -> Merged:
    """Bring two of the same job together, as ``merge`` does.

    What both have planned and not posted is no conflict: it follows from what was decided. Postings
    stand in the order in which they were made: ours as they are, each of theirs after the one
    before it and after ours that were posted earlier.
    """
    plain = merge(ours, theirs, chosen)
    plans = [one for one in plain.conflicts if _is_plan(one.ours) and _is_plan(one.theirs)]
    parts = dict(plain.parts)
    for plan in plans:
        parts[plan.identity] = _joint(plan.ours, plan.theirs, parts)
    order, parts = _one_plan(_order(ours, theirs, parts), parts, ours)
    postings = {identity: parts.pop(identity) for identity in order}
    taken = [part for part in plain.taken if parts.get(part.identity, part).content != GONE]
    taken += [
        postings[plan.identity]
        for plan in plans
        if postings[plan.identity].content != plan.ours.content
    ]
    conflicts = tuple(one for one in plain.conflicts if one not in plans)
    return Merged({**parts, **postings}, conflicts, tuple(taken))


def _is_plan(part: Part) -> bool:
    return (
        part.identity.startswith(POSTING)
        and part.content != GONE
        and _posted_at(part.content) is None
    )


def _posted_at(content: str) -> str | None:
    told = json.loads(content)["posted_at"]
    return str(told) if told is not None else None


def _joint(ours: Part, theirs: Part, parts: Mapping[str, Part]) -> Part:
    """One plan of two. An entry is planned as the decision that stands about it; of anything else
    both plans are kept.
    """
    mine, others = (json.loads(part.content) for part in (ours, theirs))
    planned: dict[tuple[str, str], Content] = {}
    for plan in (others, mine):
        for change in plan["changes"]:
            if _follows(change, parts):
                planned[_about(change)] = change
    for change in others["changes"]:
        if _about(change) in planned and _is_as_decided(change, parts):
            planned[_about(change)] = change
    first = [one for one in mine["changes"] if _about(one) in planned]
    order = dict.fromkeys([*map(_about, first), *planned])
    content = canonical({**mine, "changes": [planned[about] for about in order]})
    known = ours.known | theirs.known
    return replace(ours, content=content, earlier=known - {replace(ours, content=content).digest})


def _follows(change: Content, parts: Mapping[str, Part]) -> bool:
    """Whether a planned change still follows from what was decided about its entry."""
    told = parts.get(f"{DECISION}:{change.get('entry_id', '')}")
    if told is None or told.content == GONE:
        return True
    return json.loads(told.content)["decision"] not in LEAVE_IT_ON


def _is_as_decided(change: Content, parts: Mapping[str, Part]) -> bool:
    """Whether a change is planned for the reason of the decision that stands."""
    told = parts.get(f"{DECISION}:{change.get('entry_id', '')}")
    if told is None or told.content == GONE:
        return False
    why = json.loads(told.content).get("reason", "")
    return bool(change.get("why", "") == why)


def _about(change: Content) -> tuple[str, str]:
    entry = str(change.get("entry_id", ""))
    return (entry, "") if entry else (str(change["kind"]), str(change["what"]))


def _order(
    ours: Mapping[str, Part], theirs: Mapping[str, Part], merged: Mapping[str, Part]
) -> list[str]:
    order = [part.identity for part in of_kind(ours, POSTING) if _is_there(merged, part)]
    before = None
    for part in of_kind(theirs, POSTING):
        if part.identity not in order and _is_there(merged, part):
            order.insert(_place(order, before, part, merged), part.identity)
        before = part.identity
    return order


def _is_there(merged: Mapping[str, Part], part: Part) -> bool:
    return merged[part.identity].content != GONE


def _place(order: list[str], before: str | None, part: Part, merged: Mapping[str, Part]) -> int:
    place = order.index(before) + 1 if before in order else 0
    posted = _posted_at(part.content)
    while place < len(order):
        other = _posted_at(merged[order[place]].content)
        if other is None or (posted is not None and other > posted):
            break
        place += 1
    return place


def _one_plan(
    order: list[str], parts: dict[str, Part], ours: Mapping[str, Part]
) -> tuple[list[str], dict[str, Part]]:
    """There is one pencilled posting at most: a second one goes into ours."""
    plans = [identity for identity in order if _posted_at(parts[identity].content) is None]
    plans.sort(key=lambda identity: identity not in ours)
    for other in plans[1:]:
        parts[plans[0]] = _joint(parts[plans[0]], parts[other], parts)
        gone = parts[other]
        parts[other] = replace(gone, content=GONE, derived="", earlier=gone.known)
    for plan in plans[:1]:
        parts[plan] = _as_decided(parts[plan], parts)
    rest = [identity for identity in order if identity not in plans]
    return [*rest, *plans[:1]], parts


def _as_decided(plan: Part, parts: Mapping[str, Part]) -> Part:
    """A plan without what is no longer wanted."""
    told = json.loads(plan.content)
    wanted = [change for change in told["changes"] if _follows(change, parts)]
    if wanted == told["changes"]:
        return plan
    content = canonical({**told, "changes": wanted})
    return replace(plan, content=content, earlier=plan.known)
