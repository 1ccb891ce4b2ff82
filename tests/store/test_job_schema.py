"""The schema of a job file's book is that of the types it is held against.

``python -m tests.store.test_job_schema`` writes it anew.
"""

import io
import sys
import zipfile
from pathlib import Path

import msgspec
from jsonschema import Draft202012Validator

from plucky_ledger.exchange.job_file import BOOK, FORMAT, VERSION, job_file_bytes, job_file_from
from plucky_ledger.store.part_types import TYPES
from plucky_ledger.usecases.jobs.job_files import job_file_of
from plucky_ledger.usecases.jobs.jobs import find_job

PATH = Path(__file__).parents[2] / "docs/formats/job.schema.json"


def schema() -> bytes:
    """Of ``job.json``."""
    pairs = list(TYPES.values())
    schemas, components = msgspec.json.schema_components(
        [one for pair in pairs for one in pair], ref_template="#/$defs/{name}"
    )
    parts = [
        {
            "properties": {
                "identity": {"pattern": f"^{kind}(:|$)"},
                "content": {"anyOf": [content, {"type": "null"}]},
                "derived": {"anyOf": [derived, {"const": {}}]},
            }
        }
        for kind, content, derived in zip(TYPES, schemas[::2], schemas[1::2], strict=True)
    ]
    whole = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "The book of a Plucky Ledger job file",
        "type": "object",
        "properties": {
            "format": {"const": FORMAT},
            "version": {"const": VERSION},
            "job": {"type": "string"},
            "parts": {
                "type": "array",
                "items": {
                    "type": "object",
                    "properties": {
                        "identity": {"type": "string"},
                        "earlier": {"type": "array", "items": {"type": "string"}},
                    },
                    "required": ["identity", "content"],
                    "oneOf": parts,
                },
            },
        },
        "required": ["format", "version", "job", "parts"],
        "$defs": components,
    }
    return msgspec.json.format(msgspec.json.encode(_bare(whole), order="sorted"), indent=1) + b"\n"


def _bare(told):
    """Without what not every version of the package tells."""
    if isinstance(told, dict):
        return {key: _bare(value) for key, value in told.items() if key != "uniqueItems"}
    return [_bare(value) for value in told] if isinstance(told, list) else told


def test_a_job_is_as_the_schema_says(demo):
    assert PATH.read_bytes() == schema(), "python -m tests.store.test_job_schema"
    validator = Draft202012Validator(msgspec.json.decode(schema()))
    for label in ("0417", "0398"):
        file = job_file_of(demo, find_job(demo, label))
        data = job_file_bytes(file)
        assert job_file_from(data, "a") == file
        validator.validate(msgspec.json.decode(_book(data)))


def _book(data: bytes) -> bytes:
    return zipfile.ZipFile(io.BytesIO(data)).read(BOOK)


if __name__ == "__main__":
    PATH.write_bytes(schema())
    sys.stdout.write(f"{PATH}\n")
