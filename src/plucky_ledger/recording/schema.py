"""The recording format as JSON Schema, made from the kinds of line themselves."""

import json
from typing import Any

import msgspec

from plucky_ledger.recording.lines import LINE_TYPES, VERSION


def schema_text() -> str:
    """The schema one line has to keep to, as the text of docs/formats/recording.schema.json."""
    schemas, parts = msgspec.json.schema_components(LINE_TYPES, ref_template="#/$defs/{name}")
    whole = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"One line of a Plucky Ledger recording, version {VERSION}",
        "anyOf": schemas,
        "$defs": parts,
    }
    return json.dumps(_in_order(whole), indent=1, ensure_ascii=False) + "\n"


def _in_order(schema: Any) -> Any:  # noqa: ANN401 whatever JSON holds
    """The same with alternatives in alphabetical order: msgspec's versions differ in theirs."""
    if isinstance(schema, list | tuple):
        return [_in_order(part) for part in schema]
    if not isinstance(schema, dict):
        return schema
    parts = {name: _in_order(part) for name, part in schema.items()}
    if "anyOf" in parts:
        parts["anyOf"].sort(key=json.dumps)
    return parts
