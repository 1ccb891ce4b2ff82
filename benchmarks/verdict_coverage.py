"""Does the verdict's interval keep its promise? Coverage, false verdicts and width, side by side.

For each noise family and number of boots a side, many pairs of rounds with a known shift are made
up. Printed: how often the 95 % interval holds the true shift; how often saved or lost is said when
nothing changed (the goal is at most 5 %); and how wide the interval is against Welch's interval on
logarithms, computed for the same numbers. Once with the two rounds alone, once with three other
rounds of the same job to learn the spread from, as a real job has them.
"""

import argparse
import math

import numpy as np
from scipy import stats

from plucky_ledger.core.book.verdict import Verdict, shift_between
from plucky_ledger.core.measures import Measure, Reading

BALANCE, SHIFT, SPREAD = 60.0, -6.0, 0.03
FAMILIES = ("normal", "log-normal", "contaminated")
BOOTS = (2, 3, 4, 5, 7, 10)


def noise(family: str, rng: np.random.Generator, count: int) -> np.ndarray:
    """Factors around 1. Contaminated: one boot in ten is slower by a quarter."""
    if family == "normal":
        return 1 + SPREAD * rng.standard_normal(count)
    if family == "log-normal":
        return np.exp(2 * SPREAD * rng.standard_normal(count))
    slow = rng.random(count) < 0.1
    return (1 + SPREAD * rng.standard_normal(count)) * np.where(slow, 1.25, 1.0)


def centre(family: str) -> float:
    """What the location estimate estimates: the median of the mean of two boots."""
    rng = np.random.default_rng(1)
    pairs = noise(family, rng, 2_000_000).reshape(2, -1)
    return float(np.median(pairs.mean(axis=0)))


def welch_on_logs(before: np.ndarray, after: np.ndarray) -> tuple[float, float]:
    """Welch's interval for the ratio, turned into seconds at the earlier round's mean."""
    logs = np.log(before), np.log(after)
    parts = [log.var(ddof=1) / len(log) for log in logs]
    degrees = sum(parts) ** 2 / sum(
        p**2 / (len(log) - 1) for p, log in zip(parts, logs, strict=True)
    )
    half = stats.t.ppf(0.975, degrees) * math.sqrt(sum(parts))
    middle = logs[1].mean() - logs[0].mean()
    base = math.exp(logs[0].mean())
    return base * (math.exp(middle - half) - 1), base * (math.exp(middle + half) - 1)


def study(family: str, boots: int, others: int, trials: int, seed: int) -> dict[str, float]:
    rng = np.random.default_rng(seed)
    at = centre(family)
    held = false = welch_held = 0
    widths, welch_widths = [], []
    for _ in range(trials):
        before = BALANCE * noise(family, rng, boots)
        after = (BALANCE + SHIFT) * noise(family, rng, boots)
        same = BALANCE * noise(family, rng, boots)
        rest = [list(BALANCE * noise(family, rng, boots)) for _ in range(others)]
        shift = shift_between(Measure.SETTLED, readings(before), readings(after), rest)
        none = shift_between(Measure.SETTLED, readings(before), readings(same), rest)
        held += shift.low <= SHIFT * at <= shift.high
        false += none.verdict in {Verdict.SAVED, Verdict.LOST}
        widths.append(shift.high - shift.low)
        low, high = welch_on_logs(before, after)
        welch_held += low <= SHIFT * at <= high
        welch_widths.append(high - low)
    return {
        "coverage": held / trials,
        "false verdicts": false / trials,
        "width": float(np.median(widths)),
        "width / Welch": float(np.median(widths) / np.median(welch_widths)),
        "Welch coverage": welch_held / trials,
    }


def readings(values: np.ndarray) -> list[Reading]:
    return [Reading(float(value)) for value in values]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--trials", type=int, default=2000)
    trials = parser.parse_args().trials
    error = 1.96 * math.sqrt(0.95 * 0.05 / trials)
    print(f"Verdict coverage study, {trials} pairs a row (95 % ± {error:.1%} by chance)")
    head = ("noise", "boots", "others", "coverage", "false verdicts", "width", "width / Welch",
            "Welch coverage")  # fmt: skip
    print(" | ".join(f"{word:>14}" for word in head))
    for family in FAMILIES:
        for others in (0, 3):
            for boots in BOOTS:
                row = study(family, boots, others, trials, seed=boots)
                figures = [f"{row[name]:14.3f}" for name in head[3:]]
                print(" | ".join([f"{family:>14}", f"{boots:14d}", f"{others:14d}", *figures]))


if __name__ == "__main__":
    main()
