"""The recording format as JSON Schema, made from the kinds of line themselves."""

import json

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
    return json.dumps(whole, indent=1, ensure_ascii=False) + "\n"
