"""What is known about entries without measuring: hints, identities, stock profiles."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.boots.stock import StockProfile, beyond, picture_of
from plucky_ledger.core.entries.hints import HintKind, hints_of
from plucky_ledger.core.entries.identity import Identity, Match
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.usecases.reading.hints import rules
from plucky_ledger.wording.reasons import reason_in_words
from tests.helpers.runs import analysed, entry, run, samples

HIDDEN = Reason(ReasonCode.HIDDEN)


@pytest.mark.parametrize(
    ("made", "kinds", "evidence"),
    [
        (entry("a", "/opt/gone/run", left_behind=True), {"left_behind"}, "/opt/gone/run"),
        (entry("a", "/opt/deckhand/updater -q"), {"updater"}, "“updater” in its program"),
        (entry("a", "/opt/x", description="A firewall for the desk"), {"guarded"}, "firewall"),
        (entry("a", "/opt/x", guarded=True), {"guarded"}, "marked so by the PC"),
        (entry("a", "/opt/guardian/run", name="Guardian Angel"), set(), ""),
        (entry("a", "/opt/x", name="Foghorn Notify"), set(), ""),
    ],
)
def test_hints_name_their_evidence(made, kinds, evidence):
    found = hints_of([made], rules()).get("a", ())
    assert {str(hint.kind) for hint in found} == kinds
    assert evidence in " ".join(reason_in_words(hint.evidence) for hint in found)


def test_two_entries_that_start_the_same_program_are_duplicates_of_each_other():
    made = [
        entry("one.desktop", 'sh -c "exec /opt/foghorn/notify --tray"'),
        entry("two.desktop", "/opt/foghorn/notify --tray"),
        entry("three.desktop", "/opt/foghorn/notify --other"),
        entry("off.desktop", "/opt/foghorn/notify --other", off_because=HIDDEN),
    ]
    found = hints_of(made, ())
    assert set(found) == {"one.desktop", "two.desktop", "off.desktop"}
    assert "/etc/two.desktop" in reason_in_words(found["one.desktop"][0].evidence)
    assert found["two.desktop"][0].kind is HintKind.DUPLICATE


identities = st.builds(
    Identity,
    st.sampled_from(["", "foghorn", "till"]),
    st.sampled_from(["", "/opt/a", "/opt/b"]),
    st.sampled_from(["", "a.desktop", "b.desktop"]),
)


@given(identities, identities)
def test_matching_is_mutual_and_never_between_two_packages(one, other):
    assert bool(one.matches(other)) == bool(other.matches(one)) or not (
        one.executable and other.executable
    )
    if one.package and other.package and one.package != other.package:
        assert one.matches(other) is None
    if one.executable:
        assert one.matches(one)


def test_the_same_program_is_known_again_in_a_newer_version():
    old = entry("a.desktop", "/opt/foghorn/notify", package="foghorn 1.1")
    new = replace(
        old, entry_id="b.desktop", package="foghorn 2.0", command="/opt/foghorn/notify -x"
    )
    assert old.identity.matches(new.identity) is Match.PACKAGE


def test_what_a_pc_has_beyond_its_stock_profile():
    fresh = (run(1, 10, name="shell"), run(2, 11, name="bus"), run(3, 12, own=True))
    more = (*fresh, run(4, 13, name="shell"), run(5, 14, name="till"), run(6, 15, ended=3.0))
    pictures = [
        picture_of(
            analysed(
                runs=runs,
                entries=entries,
                samples=replace(samples(1), memory_held_bytes=np.full(11, memory)),
            ),
            "x",
        )
        for runs, entries, memory in (
            (fresh, (entry("bus"),), 400e6),
            (more, (entry("bus"), entry("till"), entry("z", off_because=HIDDEN)), 900e6),
        )
    ]
    extra = beyond(*pictures)
    assert extra.processes == 2
    assert dict(extra.programs) == {"/opt/shell": 1, "/opt/till": 1}
    assert extra.entries == ("till",)
    assert extra.memory_bytes == 500e6
    assert beyond(pictures[1], pictures[1]).processes == 0


profiles = st.builds(
    StockProfile,
    st.just("x"),
    st.just("y"),
    st.dictionaries(st.sampled_from("abcde"), st.integers(1, 9)),
    st.just(()),
    st.just(0.0),
)


@given(profiles, profiles)
def test_beyond_counts_every_process_once(stock, pc):
    gained = sum(count for _, count in beyond(stock, pc).programs)
    lost = sum(count for _, count in beyond(pc, stock).programs)
    assert gained - lost == beyond(stock, pc).processes
