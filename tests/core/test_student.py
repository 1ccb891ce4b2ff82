"""Student's distribution, against the tables in every handbook and another implementation."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.statistics.student import student_t

HANDBOOK = {1: 12.706, 2: 4.303, 3: 3.182, 4: 2.776, 5: 2.571, 10: 2.228, 30: 2.042, 120: 1.980}


@pytest.mark.parametrize("degrees", HANDBOOK)
def test_it_is_what_the_handbooks_say(degrees):
    assert round(student_t(degrees), 3) == HANDBOOK[degrees]


@given(st.floats(0.6, 500), st.floats(0.5, 0.999))
def test_it_agrees_with_the_numerics_package_also_between_whole_degrees(degrees, share):
    from scipy.stats import t

    assert student_t(degrees, share) == pytest.approx(t.ppf((1 + share) / 2, degrees), rel=1e-8)


@given(st.floats(0.6, 400), st.floats(1.01, 3))
def test_more_boots_never_widen_it_and_more_certainty_never_narrows_it(degrees, times):
    assert student_t(degrees * times) <= student_t(degrees) * (1 + 1e-12)
    assert student_t(degrees, 0.99) > student_t(degrees, 0.95) > student_t(degrees, 0.5)
