"""Axes: a place is a value's and back again, views stay within the whole, ticks are round."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.values.axes import Axis, with_air, within, zoomed

values = st.floats(-1e4, 1e4, allow_nan=False)
lengths = st.floats(0.5, 1e4)


@st.composite
def axes(draw) -> Axis:
    start, left = draw(values), draw(values)
    return Axis(start, start + draw(lengths), left, left + draw(st.floats(50, 2_000)))


@given(axes(), values)
def test_a_place_is_its_value_and_back(axis, value):
    assert axis.value(axis.place(value)) == pytest.approx(value, abs=1e-5)
    assert axis.place(axis.start) == pytest.approx(axis.left)
    assert axis.place(axis.end) == pytest.approx(axis.right)


@given(axes(), st.floats(20, 200))
def test_ticks_are_apart_within_the_axis_and_as_round_as_their_decimals(axis, apart):
    ticks, decimals = axis.ticks(apart)
    places = [axis.place(tick) for tick in ticks]
    assert all(b - a >= apart * 0.99 for a, b in pairwise(places))
    assert all(axis.start - 1e-9 <= tick <= axis.end + 1e-6 for tick in ticks)
    assert all(round(tick, decimals) == pytest.approx(tick, abs=1e-6) for tick in ticks)


@given(values, lengths, st.floats(0, 1), st.floats(0.01, 100))
def test_however_a_view_is_zoomed_it_stays_within_the_whole(start, length, share, factor):
    whole = (start, start + length)
    view = zoomed(whole, whole, start + share * length, factor)
    assert view[0] >= whole[0] - 1e-6
    assert view[1] <= whole[1] + 1e-6
    assert view[0] < view[1]


@given(values, lengths, values, st.floats(0.1, 0.9))
def test_a_view_moved_back_keeps_its_length(start, length, moved, share):
    whole = (start, start + length)
    view = (start + moved, start + moved + length * share)
    inside = within(view, whole)
    assert inside[1] - inside[0] == pytest.approx(length * share, rel=1e-6, abs=1e-6)
    assert inside == pytest.approx(within(inside, whole))
    outside = max(whole[0] - view[0], view[1] - whole[1], 0.0)
    assert abs(inside[0] - view[0]) == pytest.approx(outside)  # moved as far as it must


@given(st.lists(values, max_size=9), st.floats(0, 0.5), st.floats(0, 0.5), st.floats(0.1, 5))
def test_an_axis_with_air_holds_every_value_inside(listed, share, of_largest, least):
    span = with_air(listed, share, of_largest, least)
    if not listed:
        assert span is None
        return
    assert span is not None
    assert span[0] <= min(listed) - least * 0.99
    assert span[1] >= max(listed) + least * 0.99
