"""What scripts are answered is as its schema says, and the schema as the types are."""

from tools.answers import PATH, schemas

from plucky_ledger.cli.answers import _rounded


def test_the_schemas_are_those_of_the_types():
    """Where this fails, run ``python tools/answers.py``; where a field went or means something
    else, raise the version first.
    """
    assert PATH.read_text("utf-8") == schemas()


def test_figures_of_a_measure_are_rounded_as_they_are_shown_and_shares_are_kept():
    shift = {"measure": "settled", "low": -11.684, "high": -9.356, "chance": 0.00312}
    held = {"measure": "memory_held", "value": 1234.56, "shift": shift, "cpu_seconds": 1.23456}
    assert _rounded({"rows": [held]}) == {
        "rows": [
            {
                "measure": "memory_held",
                "value": 1235.0,
                "shift": {"measure": "settled", "low": -11.7, "high": -9.4, "chance": 0.003},
                "cpu_seconds": 1.235,
            }
        ]
    }
