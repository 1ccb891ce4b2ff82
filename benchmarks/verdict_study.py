"""Does the verdict keep its promises? Coverage, sessions, more boots, turns and effects.

Made-up boots with a known shift, many times over. Beside the product stand the method it had before
(pooled spread, eight borrowed degrees, no odd boots) and Welch's interval on logarithms, once
turned into seconds at the earlier mean and once with the earlier mean's own uncertainty counted,
which is the fair comparison. ``--part`` chooses; ``--trials`` says how many a row.
"""

import argparse
import math
from collections.abc import Callable, Sequence

import numpy as np
from scipy import stats
from tests.core.test_effects import KEYS, NAMES, Bench, true_effect

from goals import measured, often
from plucky_ledger.core.book.verdict import DECIDED, Verdict, judged, shift_between
from plucky_ledger.core.statistics.comparison import BootPoint, estimate
from plucky_ledger.core.statistics.student import student_t
from plucky_ledger.core.values.measures import Measure, Reading

BALANCE, SHIFT, SPREAD = 60.0, -6.0, 0.03
Rng = np.random.Generator


def contaminated(share: float) -> Callable[[Rng, int], np.ndarray]:
    """Some boots are slower by a twentieth to two fifths."""

    def make(rng: Rng, count: int) -> np.ndarray:
        slow = rng.random(count) < share
        more = np.exp(rng.uniform(0.05, 0.4, count))
        return np.exp(SPREAD * rng.standard_normal(count)) * np.where(slow, more, 1.0)

    return make


FAMILIES: dict[str, Callable[[Rng, int], np.ndarray]] = {
    "normal": lambda rng, n: np.exp(SPREAD * rng.standard_normal(n)),
    "log-normal, wide": lambda rng, n: np.exp(2 * SPREAD * rng.standard_normal(n)),
    "10 % slow boots": contaminated(0.1),
    "20 % slow boots": contaminated(0.2),
    "heavy tails (t3)": lambda rng, n: np.exp(SPREAD * rng.standard_t(3, n)),
}


def seconds(values: np.ndarray) -> list[Reading]:
    return [Reading(float(value)) for value in values]


def welch(before: np.ndarray, after: np.ndarray) -> tuple[float, float, float]:
    """Half width in seconds at the earlier mean, the same counted fairly, and the middle."""
    logs = np.log(before), np.log(after)
    parts = [log.var(ddof=1) / len(log) for log in logs]
    degrees = sum(parts) ** 2 / sum(p**2 / (len(x) - 1) for p, x in zip(parts, logs, strict=True))
    t = stats.t.ppf(0.975, degrees)
    means = [math.exp(log.mean()) for log in logs]
    plain = t * math.sqrt(sum(parts)) * means[1]
    fair = t * math.sqrt(sum(m**2 * p for m, p in zip(means, parts, strict=True)))
    return plain, fair, means[1] - means[0]


def pooled_before(before: np.ndarray, after: np.ndarray, rest: Sequence[np.ndarray]) -> float:
    """Half width of the method the product had: spread pooled with up to eight lent degrees."""

    def squares(groups: Sequence[np.ndarray]) -> tuple[float, int]:
        return (
            sum(float(((g / np.median(g) - 1) ** 2).sum()) for g in groups),
            sum(len(g) - 1 for g in groups),
        )

    own, own_degrees = squares([before, after])
    lent, lent_degrees = squares(rest)
    borrowed = min(8, lent_degrees)
    degrees = own_degrees + borrowed
    variance = (own + (lent / lent_degrees * borrowed if lent_degrees else 0)) / degrees
    error = sum(math.pi / 3 * variance * float(np.median(g)) ** 2 / len(g) for g in (before, after))
    return student_t(degrees) * math.sqrt(error)


def coverage(trials: int) -> None:
    print("\nCoverage of the 95 % interval, false stamps, widths against the others")
    print(
        f"{'family':>18} {'boots':>5} {'others':>6} {'holds':>6} {'false':>6} "
        f"{'width':>6} {'/before':>7} {'/Welch':>7} {'/fair':>6}"
    )
    held: dict[str, list[float]] = {}
    for name, make in FAMILIES.items():
        for others in (0, 3):
            for boots in (2, 3, 4, 5, 7, 10):
                row = coverage_row(name, make, boots, others, trials)
                if boots >= 3:
                    held.setdefault(name, []).append(row)
    shares = {name: float(np.mean(rows)) for name, rows in held.items()}
    least = min(shares, key=lambda name: shares[name])
    measured(
        "verdict: its interval holds, from 3 boots a side",
        float(np.mean(list(shares.values()))),
        0.93,
        "{:.1%}",
        f"{least} {shares[least]:.1%}",
        least=True,
    )


def coverage_row(
    name: str, make: Callable[[Rng, int], np.ndarray], boots: int, others: int, trials: int
) -> float:
    """Prints a row; returns how often the interval held."""
    rng = np.random.default_rng(boots + 100 * others)
    held = false = 0
    widths: list[tuple[float, float, float, float]] = []
    for _ in range(trials):
        before, same = BALANCE * make(rng, boots), BALANCE * make(rng, boots)
        after = (BALANCE + SHIFT) * make(rng, boots)
        rest = [BALANCE * make(rng, boots) for _ in range(others)]
        lists = [list(map(float, group)) for group in rest]
        shift = shift_between(Measure.SETTLED, seconds(before), seconds(after), lists)
        none = shift_between(Measure.SETTLED, seconds(before), seconds(same), lists)
        held += shift.low <= SHIFT <= shift.high
        false += none.verdict in DECIDED
        plain, fair, _ = welch(before, after)
        widths.append(
            ((shift.high - shift.low) / 2, pooled_before(before, after, rest), plain, fair)
        )
    ours, *rivals = np.median(np.array(widths), axis=0)
    against = " ".join(f"{ours / rival:7.2f}" for rival in rivals)
    print(
        f"{name:>18} {boots:5d} {others:6d} {held / trials:6.3f} {false / trials:6.3f} "
        f"{ours:6.2f} {against}",
        flush=True,
    )
    return held / trials


def sessions(trials: int) -> None:
    """Somebody looks after every boot from the third a side to the tenth and stops when stamped."""
    print(
        "\nSessions with nothing changed: ever stamped saved or lost, ever even where 5 % changed"
    )
    shares: dict[str, float] = {}
    for name, make in FAMILIES.items():
        rng = np.random.default_rng(7)
        false = even = 0
        for _ in range(trials):
            before, same = BALANCE * make(rng, 10), BALANCE * make(rng, 10)
            rest = [list(map(float, BALANCE * make(rng, 4))) for _ in range(2)]
            false += _ever(before, same, rest, DECIDED)
            even += _ever(before, 0.95 * same, rest, frozenset({Verdict.EVEN}))
        print(f"{name:>18}  false {false / trials:.3f}  false even {even / trials:.3f}", flush=True)
        shares[name] = false / trials
    most = max(shares, key=lambda name: shares[name])
    mean = float(np.mean(list(shares.values())))
    what = "verdict: ever stamped with nothing changed, looked at after every boot"
    measured(what, mean, 0.05, "{:.1%}", f"{most} {shares[most]:.1%}")


def _ever(
    before: np.ndarray, after: np.ndarray, rest: list[list[float]], wanted: frozenset[Verdict]
) -> bool:
    for boots in range(3, 11):
        shift = shift_between(
            Measure.SETTLED, seconds(before[:boots]), seconds(after[:boots]), rest
        )
        if shift.verdict is not Verdict.UNPROVEN:
            return shift.verdict in wanted
    return False


def promise(trials: int) -> None:
    """ "n more boots, 4 times in 5": how often are so many enough?"""
    print("\nHow often n more boots decide, when n more are asked for")
    for name, make in FAMILIES.items():
        rng = np.random.default_rng(9)
        asked = kept = 0
        while asked < trials:
            true = rng.uniform(-8, 8)
            before = BALANCE * make(rng, 16)
            after = (BALANCE + true) * make(rng, 16)
            shift = shift_between(Measure.SETTLED, seconds(before[:4]), seconds(after[:4]))
            if shift.more_boots is None:
                continue
            asked += 1
            boots = 4 + shift.more_boots
            later = shift_between(Measure.SETTLED, seconds(before[:boots]), seconds(after[:boots]))
            kept += later.verdict is not Verdict.UNPROVEN
        print(f"{name:>18}  {kept / asked:.3f}", flush=True)


def turns(trials: int) -> None:
    """A host that gets 2 % slower with every boot."""
    print("\nDrift of 2 % a boot, 12 boots: the interval holds, and its half width in seconds")
    designs = {"blocks": "AAAAAABBBBBB", "turns": "ABBAABBAABBA", "back once": "AAABBBBBBAAA"}
    for name, design in designs.items():
        rng = np.random.default_rng(11)
        held, false, widths = 0, 0, []
        for _ in range(trials):
            noise = np.exp(SPREAD * rng.standard_normal(12) + 0.02 * np.arange(12))
            for true in (SHIFT, 0.0):
                levels = [BALANCE if state == "A" else BALANCE + true for state in design]
                points = [
                    BootPoint(float(level * factor), float(place))
                    for place, (level, factor) in enumerate(zip(levels, noise, strict=True))
                ]
                sides = tuple(
                    [p for p, state in zip(points, design, strict=True) if state == wanted]
                    for wanted in "AB"
                )
                found = estimate(Measure.SETTLED, (sides[0], sides[1]))
                readings = [[Reading(p.value) for p in side] for side in sides]
                shift = judged(Measure.SETTLED, readings[0], readings[1], found, None)
                if true:
                    speed = math.exp(0.02 * 5.5)
                    held += shift.low <= true * speed <= shift.high
                    widths.append((shift.high - shift.low) / 2)
                else:
                    false += shift.verdict in DECIDED
        print(
            f"{name:>18}  holds {held / trials:.3f}  false {false / trials:.3f}  "
            f"±{np.median(widths):.2f}",
            flush=True,
        )


def effects(trials: int) -> None:
    """Changes put back greedily, against putting them back one at a time."""
    print("\nWhich change did it, from three boots with none and three with all of them")
    print(
        f"{'changes':>8} {'apart after':>11} {'one by one':>10} {'holds':>6} {'± greedy':>8} "
        f"{'± one by one':>12}"
    )
    for count in range(2, 7):
        apart: list[int] = []
        held = asked = 0
        widths: dict[bool, list[float]] = {True: [], False: []}
        for seed in range(max(10, trials // 40)):
            for greedy in (True, False):
                bench = Bench(NAMES[:count], seed, SPREAD)
                every = frozenset(KEYS[name] for name in NAMES[:count])
                steps = 0
                while steps < 2 * count or any(e.tangled for e in bench.effects().effects):
                    alone = every - {KEYS[NAMES[steps % count]]}
                    bench.go_to(bench.effects().next_state if greedy else alone)
                    steps += 1
                    if greedy and not any(e.tangled for e in bench.effects().effects):
                        apart.append(steps)
                found = bench.effects().effects
                widths[greedy] += [(e.high - e.low) / 2 for e in found]
                if greedy:
                    level = bench.level()
                    for effect, name in zip(found, NAMES, strict=False):
                        held += effect.low <= true_effect(effect, name, level) <= effect.high
                        asked += 1
        halves = [float(np.median(widths[greedy])) for greedy in (True, False)]
        print(
            f"{count:8d} {min(apart):11d} {count - 1:10d} {held / asked:6.3f} "
            f"{halves[0]:8.2f} {halves[1]:12.2f}",
            flush=True,
        )


def main() -> None:
    parts = {
        "coverage": coverage,
        "sessions": sessions,
        "promise": promise,
        "turns": turns,
        "effects": effects,
    }
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--trials", type=int, default=often(400, 60))
    parser.add_argument("--part", choices=[*parts, "all"], default="all")
    chosen = parser.parse_args()
    for name, part in parts.items():
        if chosen.part in {name, "all"}:
            part(chosen.trials)


if __name__ == "__main__":
    main()
