"""What commands answer to scripts."""

import json
from functools import cache
from pathlib import Path
from typing import Any

from jsonschema import Draft202012Validator

SCHEMAS = Path(__file__).parents[2] / "docs/formats/answers.schema.json"


def answered(printed: str) -> Any:
    """The answer within what a command printed, which is as its schema says."""
    told = json.loads(printed)
    _validator(told["schema"]).validate(told)
    return told["answer"]


@cache
def _validator(name: str) -> Draft202012Validator:
    whole = json.loads(SCHEMAS.read_text("utf-8"))
    (own,) = [one for one in whole["oneOf"] if one["properties"]["schema"]["const"] == name]
    return Draft202012Validator({"$defs": whole["$defs"], **own})
