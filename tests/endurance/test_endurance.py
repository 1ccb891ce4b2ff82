"""A short part of what make fuzz and make kill do at length."""

from random import Random

import pytest

from tests.endurance.fuzz import READERS, stand
from tests.endurance.kills import VICTIMS

INPUTS = {"ledgers": 25, "journals": 60, "answers of a manager": 60}
"""Of what takes longer."""


@pytest.mark.parametrize("name", READERS)
def test_odd_input_is_read_or_refused_with_a_sentence(name):
    stood, faults = stand(name, INPUTS.get(name, 400))
    assert stood
    assert faults == []


@pytest.mark.parametrize("name", VICTIMS)
def test_killed_at_any_moment_nothing_acknowledged_is_lost(name, tmp_path):
    assert VICTIMS[name](tmp_path, Random(1), 6)
