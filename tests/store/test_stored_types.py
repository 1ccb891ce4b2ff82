"""What ledgers hold as JSON keeps its names: a renamed field would lose what they hold in silence.

    python -m tests.store.test_stored_types

writes the schema anew, once a migration brings old ledgers to it.
"""

import ast
import sys
from pathlib import Path

import msgspec

from plucky_ledger.store import tables
from plucky_ledger.store.stored_types import STORED

SCHEMA = Path(__file__).parents[1] / "data" / "stored.schema.json"
NOT_VALUES = {"settings.value", "step_images.before", "step_images.after"}
"""JSON of any kind: by the setting's name, and rows as they were."""


def schema_text() -> bytes:
    """The schema of everything that is stored, as it is written down."""
    schemas, components = msgspec.json.schema_components(list(STORED.values()))
    told = {"columns": dict(zip(STORED, schemas, strict=True)), "components": components}
    return msgspec.json.format(msgspec.json.encode(_bare(told), order="sorted"), indent=1) + b"\n"


def _bare(told):
    """Without what is only said of it, and what not every version of the package tells."""
    if isinstance(told, dict):
        left_out = {"description", "uniqueItems"}
        return {key: _bare(value) for key, value in told.items() if key not in left_out}
    return [_bare(value) for value in told] if isinstance(told, list) else told


def test_what_is_stored_has_the_names_that_ledgers_hold():
    assert schema_text() == SCHEMA.read_bytes(), "write a migration, then the schema anew"


def test_every_column_of_json_says_what_it_holds():
    marked = set()
    for path in Path(tables.__file__).parent.glob("*.py"):
        for table in ast.parse(path.read_text()).body:
            if isinstance(table, ast.ClassDef):
                marked |= set(_json_columns(table))
    assert marked - NOT_VALUES == set(STORED)


def _json_columns(table):
    name, column = "", ""
    for node in table.body:
        match node:
            case ast.Assign(targets=[ast.Name("__tablename__")], value=ast.Constant(told)):
                name = told
            case ast.AnnAssign(target=ast.Name(column_name)):
                column = column_name
            case ast.Expr(ast.Constant(str(told))) if told.startswith("JSON"):
                yield f"{name}.{column}"


if __name__ == "__main__":
    SCHEMA.write_bytes(schema_text())
    sys.stdout.write(f"{SCHEMA}\n")
