"""What a command that opens a ledger costs: CPU time against importing what it cannot be without.

Fresh programs in pairs: the command as it is installed, and ``import click, sqlalchemy.orm``.
"""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

from goals import measured, often
from plucky_ledger.usecases.jobs.demo import write_demo

PAIRS = often(25, 9)
YARDSTICK = ("-c", "import click, sqlalchemy.orm")
GOALS = {("jobs",): 1.3, ("disarm", "0417"): 1.4}


def cpu_seconds_of(*arguments: str) -> float:
    """Of a fresh Python with all its modules compiled."""
    environment = {**os.environ}
    environment.pop("PYTHONDONTWRITEBYTECODE", None)
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(
        [sys.executable, *arguments], env=environment, check=True, stdout=subprocess.DEVNULL
    )
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.ledger"
        write_demo(path, lambda _done, _total: True)
        for words, goal in GOALS.items():
            command = ("-m", "plucky_ledger", *words, "--ledger", str(path))
            cpu_seconds_of(*command)
            ratios = [cpu_seconds_of(*command) / cpu_seconds_of(*YARDSTICK) for _ in range(PAIRS)]
            what = f"{words[0]}, by CPU, × importing click and sqlalchemy.orm"
            measured(what, statistics.median(ratios), goal)


if __name__ == "__main__":
    main()
