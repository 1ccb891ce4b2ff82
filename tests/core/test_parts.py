"""Two of the same job brought together: nothing is lost, nothing is twice, in either order."""

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.job.merging import merge_jobs
from plucky_ledger.core.job.parts import GONE, Part, Side, canonical, merge, of_kind

NAMES = st.sampled_from(["card", "boot:1", "boot:2", "decision:bell", "decision:horn", "aside:x"])
CONTENTS = st.sampled_from([*(canonical({"is": value}) for value in "abcd"), GONE])


def edited(part, content):
    """A part somebody has changed, in a ledger that keeps what it was."""
    if part.content == content:
        return part
    gone = {part.digest} if part.content or part.earlier else set()
    earlier = (part.earlier | gone) - {replace(part, content=content).digest}
    return replace(part, content=content, earlier=frozenset(earlier))


@st.composite
def bench(draw, parts, names=NAMES):
    """A job as it is after some more was done at one bench."""
    there = dict(parts)
    for name, content in draw(st.lists(st.tuples(names, CONTENTS), max_size=6)):
        part = there.get(name, Part(identity=name, content=GONE))
        if part.content or content:
            there[name] = edited(part, content)
    return there


@st.composite
def forks(draw):
    """The same job at two benches that went on from one."""
    common = draw(bench({}))
    return draw(bench(common)), draw(bench(common))


def contents(parts):
    return {identity: part.content for identity, part in parts.items() if part.content != GONE}


@given(forks())
def test_without_conflict_either_order_comes_to_the_same(benches):
    ours, theirs = benches
    one, other = merge(ours, theirs), merge(theirs, ours)
    assert {c.identity for c in one.conflicts} == {c.identity for c in other.conflicts}
    undecided = {conflict.identity for conflict in one.conflicts}
    for identity in {*one.parts, *other.parts} - undecided:
        assert one.parts[identity].content == other.parts[identity].content


@given(forks(), st.sampled_from(Side))
def test_merging_again_changes_nothing(benches, side):
    ours, theirs = benches
    chosen = dict.fromkeys(ours, side)
    merged = merge(ours, theirs, chosen).parts
    again = merge(merged, theirs)
    assert again.conflicts == ()
    assert again.taken == ()
    assert contents(again.parts) == contents(merged)
    back = merge(theirs, merged)  # and the other bench takes it over whole
    assert back.conflicts == ()
    assert contents(back.parts) == contents(merged)


@given(forks(), st.dictionaries(NAMES, st.sampled_from(Side)))
def test_nothing_is_lost_and_what_one_alone_changed_stands(benches, chosen):
    ours, theirs = benches
    merged = merge(ours, theirs, chosen)
    conflicts = {conflict.identity for conflict in merged.conflicts}
    for identity, part in merged.parts.items():
        sides = [side[identity] for side in (ours, theirs) if identity in side]
        assert part.content in {side.content for side in sides}
        if identity in conflicts:
            wanted = theirs if chosen.get(identity) is Side.THEIRS else ours
            assert part.content == wanted[identity].content
        elif len(sides) == 2 and ours[identity].digest not in theirs[identity].earlier:
            assert part.content == ours[identity].content
    told = {part.identity for part in merged.taken}
    assert all(ours.get(name) != merged.parts[name] for name in told)


def posting(name, posted_at, *changes):
    told = [{"kind": "other", "what": what} for what in changes]
    return Part(
        identity=f"posting:{name}", content=canonical({"posted_at": posted_at, "changes": told})
    )


def by_name(*parts):
    return {part.identity: part for part in parts}


def test_postings_come_in_the_order_in_which_they_were_made():
    common = posting("a", "2026-11-01"), posting("b", "2026-11-03")
    ours = by_name(*common, posting("d", "2026-11-05"), posting("plan", None, "one", "both"))
    theirs = by_name(
        common[0],
        posting("between", "2026-11-02"),
        common[1],
        posting("c", "2026-11-04"),
        posting("e", "2026-11-06"),
        posting("theirs", None, "both", "two"),
    )
    ordered = merge_jobs(ours, theirs).parts
    made = [part.identity.partition(":")[2] for part in of_kind(ordered, "posting")]
    assert made == ["a", "between", "b", "c", "d", "e", "plan"]
    assert [ordered["posting:plan"].content.count(what) for what in ("one", "both", "two")] == [
        1,
        1,
        1,
    ]
    assert ordered["posting:theirs"].content == GONE
