"""Steps in generated years of boots: how often one is found that is none, and how soon a real one.

Years of 80 to 300 boots, by how much they scatter and how many are slow (by a third to twice as
long). Without a step; with one of 5 s on 40 s, looked at five boots later; and with it anywhere in
the year, for the interval of its date.
"""

from multiprocessing import Pool

import numpy as np

from goals import measured, often
from plucky_ledger.core.trend.changepoints import steps_in

YEARS = often(250, 60)
LEVEL, STEP = 40.0, 5.0
SOON = 5
FAMILIES = [(scatter, slow) for scatter in (0.02, 0.03, 0.04, 0.05) for slow in (0.0, 0.1)]


def year(rng, scatter, slow, stepped_at=None):
    """A year of boots; ``stepped_at`` is counted from its end where it is negative."""
    boots = int(rng.integers(80, 300))
    values = LEVEL * np.exp(rng.normal(0.0, scatter, boots))
    values = np.where(rng.random(boots) < slow, values * rng.uniform(1.33, 2.0, boots), values)
    if stepped_at is None:
        return values, 0
    at = boots + stepped_at if stepped_at < 0 else int(rng.integers(10, boots - 10))
    values[at:] *= (LEVEL + STEP) / LEVEL
    return values, at


def found(values, at):
    """Whether a step upwards was found whose interval holds the place."""
    return any(s.after > s.before and s.earliest <= at <= s.latest for s in steps_in(values))


def judge(family):
    rng = np.random.default_rng(int(1000 * sum(family)))
    false = np.mean([bool(steps_in(year(rng, *family)[0])) for _ in range(YEARS)])
    soon = np.mean([found(*year(rng, *family, -SOON)) for _ in range(YEARS)])
    anywhere = np.mean([found(*year(rng, *family, 0)) for _ in range(YEARS)])
    return false, soon, anywhere


def main() -> None:
    with Pool() as pool:
        rows = pool.map(judge, FAMILIES)
    print("scatter  slow boots   none, but found   found after 5 boots   found, date held")
    for (scatter, slow), figures in zip(FAMILIES, rows, strict=True):
        print(
            f"{scatter:6.0%} {slow:10.0%} {figures[0]:15.1%} {figures[1]:20.1%} {figures[2]:19.1%}"
        )
    false, soon, held = np.mean(rows, axis=0)
    print(f"steps found anywhere with their date: {held:.1%}")
    most, least = max(row[0] for row in rows), min(row[1] for row in rows)
    measured("steps found in years without any", false, 0.05, "{:.1%}", f"{most:.1%}")
    measured("steps found after five boots", soon, 0.9, "{:.1%}", f"{least:.1%}", least=True)


if __name__ == "__main__":
    main()
