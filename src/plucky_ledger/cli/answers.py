"""Answers for scripts: JSON with the name and the version of its schema, figures as they are shown.

The schemas are in ``docs/formats/answers.schema.json``, what they have in common in
``docs/formats/answers.md``.
"""

from collections.abc import Mapping, Sequence
from typing import Any

import click

from plucky_ledger.core.values.measures import TERMS, Measure
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.wording.safe import escaped_in_json

VERSION = 2
"""Of all answers together: raised where something in one of them gets another meaning or goes."""
PLACES = 3
"""To which what is no figure of a measure is rounded: thousandths of its unit."""
FIGURES = frozenset({"value", "low", "high", "centre", "typical_before", "typical_after"})
"""Fields that hold a figure of the measure they stand under, rounded as that is shown."""
_MEASURES = frozenset(measure.value for measure in Measure)


def answer_json(name: str, answer: object) -> None:
    """Print a value of a page or the core. ``name`` is that of its schema."""
    import msgspec

    plain = msgspec.to_builtins(answer, enc_hook=_plain, str_keys=True)
    told = {"schema": f"plucky-ledger/{name}/{VERSION}", "answer": _rounded(plain)}
    encoded = msgspec.json.encode(told, order="deterministic")
    click.echo(escaped_in_json(msgspec.json.format(encoded, indent=1).decode()))


def answer_agent(answer: object) -> None:
    """Print what the night's own agent asks for, which knows no schemas."""
    import msgspec

    click.echo(escaped_in_json(msgspec.json.encode(answer).decode()))


def _rounded(value: object, places: int = PLACES, field: str = "") -> object:
    if isinstance(value, float):
        return round(value, places if field in FIGURES else PLACES) + 0.0  # never -0.0
    if isinstance(value, Mapping):
        told = value.get("measure")
        if isinstance(told, str) and told in _MEASURES:
            places = TERMS[Measure(told)].decimals
        return {name: _rounded(part, places, name) for name, part in value.items()}
    if isinstance(value, Sequence) and not isinstance(value, str):
        return [_rounded(part, places, field) for part in value]
    return value


def _plain(value: Any) -> Any:  # noqa: ANN401 whatever a page holds that JSON has no word for
    if isinstance(value, float):
        return float(value)
    if isinstance(value, Trouble):
        return {"code": value.code, "facts": value.facts}
    raise TypeError(f"no JSON for {type(value).__name__}")
