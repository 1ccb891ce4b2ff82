"""The same ledgers and recordings give the same figures as before: whatever was moved or renamed.

Where a figure changes on purpose: ``python -m tests.cli.test_same_figures`` writes them anew, and
the difference is read before it is committed.
"""

import json
import shutil
import sys
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest.mock import patch

import pytest
from click.testing import CliRunner

from plucky_ledger.cli.main import main
from plucky_ledger.usecases.jobs.demo import write_demo
from tests.helpers.answers import answered

DATA = Path(__file__).parents[1] / "data"
KEPT = DATA / "figures.json"
OLD = DATA / "ledger-0002/workshop.ledger"
CAPTURED = sorted((DATA / "real-boot").glob("*-0*.jsonl.gz"))
ASKED = {
    "book": ("rows", "opening", "closing"),
    "entries": ("entries", "plan"),
    "load": ("rows", "sums", "span"),
    "effects": ("rows", "span", "restarts_left"),
    "trend": ("levels", "steps"),
}
NOT_FIGURES = {
    "uuid",
    "method",
    "number",
    "facts",
    "context",
    "card",
    "decided",
    "noticed",
    "boots",
}


def answer(path: Path, *command: str) -> object:
    """What a command answers in JSON, its figures as they were worked out."""
    with patch("plucky_ledger.cli.answers._rounded", lambda whole: whole):
        told = CliRunner().invoke(main, [*command, "--json", "--ledger", str(path)])
    assert told.exit_code == 0, told.output
    return answered(told.stdout)


def figures(path: Path) -> dict[str, dict[str, float]]:
    """Every figure that is shown of a ledger's jobs, by where it stands."""
    found = {}
    for on_shelf in answer(path, "jobs"):
        label = on_shelf["card"]["label"]
        for command, parts in ASKED.items():
            told = answer(path, command, label)
            shown = {part: told[part] for part in parts}
            found[f"{path.stem} {label} {command}"] = dict(_numbers(shown))
        shifts = [verdict["shift"] for verdict in answer(path, "compare", label)]
        found[f"{path.stem} {label} compare"] = dict(_numbers(shifts))
    return found


def _numbers(value: object, where: str = "") -> Iterator[tuple[str, float]]:
    """The numbers within, by their way there: things by their names, where they have one."""
    if isinstance(value, dict):
        for name, part in value.items():
            if name not in NOT_FIGURES:
                yield from _numbers(part, f"{where}.{name}")
    elif isinstance(value, list):
        for at, part in enumerate(value):
            yield from _numbers(part, f"{where}[{_name(part) or at}]")
    elif isinstance(value, int | float) and not isinstance(value, bool):
        yield where, float(f"{value:.7g}")


def _name(value: object) -> str:
    if not isinstance(value, dict):
        return ""
    entry = value.get("entry")
    return entry["entry_id"] if isinstance(entry, dict) else str(value.get("name", ""))


def of_all_ledgers(folder: Path, demo: Path) -> dict[str, dict[str, float]]:
    """Of the demo, of a ledger of the second version, and of boots captured on a real PC."""
    old, captured = folder / "old.ledger", folder / "captured.ledger"
    shutil.copy(OLD, old)
    answer(captured, "import", *map(str, CAPTURED), "--new")
    return figures(demo) | figures(old) | figures(captured)


def test_the_same_figures_as_before(demo_path, tmp_path):
    known = json.loads(KEPT.read_text())
    found = of_all_ledgers(tmp_path, demo_path)
    assert found.keys() == known.keys()
    for asked, told in found.items():
        assert told == pytest.approx(known[asked], rel=1e-4, abs=1e-6), asked


if __name__ == "__main__":
    with TemporaryDirectory() as folder:
        made = Path(folder) / "demo.ledger"
        assert write_demo(made, lambda _done, _total: True)
        KEPT.write_text(json.dumps(of_all_ledgers(Path(folder), made), indent=0) + "\n")
    sys.stdout.write(f"{KEPT}\n")
