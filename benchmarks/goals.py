"""Figures of the benchmarks beside their goals: printed at once, and in one table at the end.

    python benchmarks/goals.py

prints the table of everything measured since the file that $BENCH_FIGURES names was removed.
"""

import json
import os
import sys
import time
from pathlib import Path

FIGURES = Path(os.environ.get("BENCH_FIGURES", "build/bench.jsonl"))
QUICK = bool(os.environ.get("BENCH_QUICK"))
"""Few draws: all benchmarks in minutes, with wider scatter."""


def often(usual: int, quick: int) -> int:
    """How often something is drawn."""
    return quick if QUICK else usual


def cpu_seconds(work, *arguments) -> float:
    """CPU time of this process that a piece of work takes: no other program's work is in it."""
    begin = time.process_time()
    work(*arguments)
    return time.process_time() - begin


def measured(
    what: str,
    figure: float,
    goal: float,
    form: str = "{:.2f}",
    worst: str = "",
    least: bool = False,
) -> None:
    """Print a figure beside its goal, and keep it for the table.

    ``form`` formats both. ``worst`` says how the worst family did, beside a mean over families.
    A goal is the most the figure may be; with ``least`` the least.
    """
    row = {
        "what": what,
        "figure": form.format(figure),
        "goal": f"{'≥' if least else '≤'} {form.format(goal)}",
        "reached": bool(figure >= goal if least else figure <= goal),
        "worst": worst,
    }
    print(line(row))
    FIGURES.parent.mkdir(parents=True, exist_ok=True)
    with FIGURES.open("a") as file:
        file.write(f"{json.dumps(row)}\n")


def line(row: dict) -> str:
    """One figure as a line of the table."""
    mark = "reached" if row["reached"] else "NOT reached"
    worst = f"; worst: {row['worst']}" if row["worst"] else ""
    return f"{row['what']:<72} {row['figure']:>10}  goal {row['goal']:<10} {mark}{worst}"


def main() -> None:
    rows = [json.loads(text) for text in FIGURES.read_text().splitlines()]
    print("\n".join(map(line, rows)))
    print(f"{sum(row['reached'] for row in rows)} of {len(rows)} goals reached")


if __name__ == "__main__":
    sys.exit(main())
