"""Does the verdict keep its promises? Coverage, sessions, more boots, turns and effects.

Made-up boots with a known shift, many times over, on the product's own path: a job of boots in
their order, compared as the book compares its states. ``--part`` chooses; ``--trials`` says how
many a row.
"""

import argparse
import math
from collections.abc import Callable, Sequence

import numpy as np
from scipy import stats
from tests.core.rounds_in_order import compared
from tests.core.test_effects import KEYS, NAMES, Bench, true_effect

from goals import measured, often
from plucky_ledger.core.book.verdict import DECIDED, Shift, Verdict

BALANCE, SHIFT, SPREAD = 60.0, -6.0, 0.03
LOOKS = range(3, 11)
Rng = np.random.Generator
Family = Callable[[Rng, int], np.ndarray]
"""Logarithms of the boots of one round about their state, in their order."""


def normal(rng: Rng, count: int) -> np.ndarray:
    return SPREAD * rng.standard_normal(count)


def odd(share: float, most: float) -> Family:
    """Some boots are slower by a twentieth to ``most``, or quicker where that is below nothing."""

    def make(rng: Rng, count: int) -> np.ndarray:
        away = math.copysign(1, most) * rng.uniform(0.05, abs(most), count)
        return normal(rng, count) + np.where(rng.random(count) < share, away, 0.0)

    return make


def neighbourly(rng: Rng, count: int) -> np.ndarray:
    """Each boot resembles the one before it by half."""
    series = rng.standard_normal(count)
    for place in range(1, count):
        series[place] = 0.5 * series[place - 1] + math.sqrt(0.75) * series[place]
    return SPREAD * series


def saw_tooth(rng: Rng, count: int) -> np.ndarray:
    return 0.01 * rng.standard_normal(count) + np.pad([0.04, 0.02], (0, count))[:count]


FAMILIES: dict[str, Family] = {
    "normal": normal,
    "log-normal, wide": lambda rng, n: 2 * normal(rng, n),
    "heavy tails (t3)": lambda rng, n: SPREAD * rng.standard_t(3, n),
    "10 % slow boots": odd(0.1, 0.4),
    "20 % slow boots": odd(0.2, 0.4),
    "10 % quick boots": odd(0.1, -0.3),
    "20 % quick boots": odd(0.2, -0.3),
    "steps of 1 s": lambda rng, n: np.log(np.round(BALANCE * np.exp(normal(rng, n))) / BALANCE),
}
IN_ROUNDS: dict[str, Family] = {
    "first boot slow": lambda rng, n: normal(rng, n) + 0.1 * (np.arange(n) == 0),
    "saw-tooth": saw_tooth,
    "warms 1 % a boot": lambda rng, n: 0.005 * rng.standard_normal(n) + 0.01 * np.arange(n),
    "neighbourly (.5)": neighbourly,
}
"""What differs within a round by the order of its boots; the same in every round."""


def said(before: np.ndarray, after: np.ndarray, rest: Sequence[np.ndarray] = ()) -> Shift:
    """What the product says of boots in blocks, on its own path, with other rounds after them."""
    others = [(f"other {place}", other) for place, other in enumerate(rest)]
    shift = compared([("A", before), ("B", after), *others])
    assert shift is not None
    return shift


def welch(before: np.ndarray, after: np.ndarray) -> float:
    """Half width of Welch's interval on logarithms in seconds, the opening's own uncertainty
    counted, which is the fair comparison.
    """
    logs = np.log(before), np.log(after)
    parts = [log.var(ddof=1) / len(log) for log in logs]
    degrees = sum(parts) ** 2 / sum(p**2 / (len(x) - 1) for p, x in zip(parts, logs, strict=True))
    means = [math.exp(log.mean()) for log in logs]
    error = math.sqrt(sum(m**2 * p for m, p in zip(means, parts, strict=True)))
    return float(stats.t.ppf(0.975, degrees)) * error


def coverage(trials: int) -> None:
    print("\nCoverage of the 95 % interval, how often it is stamped, width against Welch's")
    print(
        f"{'family':>18} {'boots':>5} {'others':>6} {'holds':>6} {'saved':>6} "
        f"{'width':>6} {'/Welch':>7}"
    )
    held: dict[str, list[float]] = {}
    for name, make in (FAMILIES | IN_ROUNDS).items():
        for others in (0, 3):
            for boots in (2, 3, 5, 10):
                row = coverage_row(name, make, boots, others, trials)
                if boots >= 3 and name in FAMILIES:
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


def coverage_row(name: str, make: Family, boots: int, others: int, trials: int) -> float:
    """Prints a row; returns how often the interval held."""
    rng = np.random.default_rng(boots + 100 * others)
    held = saved = 0
    widths: list[tuple[float, float]] = []
    for _ in range(trials):
        before = BALANCE * np.exp(make(rng, boots))
        after = (BALANCE + SHIFT) * np.exp(make(rng, boots))
        rest = [BALANCE * np.exp(make(rng, boots)) for _ in range(others)]
        shift = said(before, after, rest)
        held += shift.low <= SHIFT <= shift.high
        saved += shift.verdict is Verdict.SAVED
        widths.append(((shift.high - shift.low) / 2, welch(before, after)))
    ours, rival = np.median(np.array(widths), axis=0)
    print(
        f"{name:>18} {boots:5d} {others:6d} {held / trials:6.3f} {saved / trials:6.3f} "
        f"{ours:6.2f} {ours / rival:7.2f}",
        flush=True,
    )
    return held / trials


def sessions(trials: int) -> None:
    """Somebody looks after every boot from the third a side to the tenth and stops when stamped."""
    print(
        "\nSessions with nothing changed: ever stamped saved or lost, ever even where 5 % changed"
    )
    shares: dict[str, float] = {}
    for name, make in (FAMILIES | IN_ROUNDS).items():
        rng = np.random.default_rng(7)
        false = even = 0
        for _ in range(trials):
            before, same = (BALANCE * np.exp(make(rng, LOOKS[-1])) for _ in range(2))
            rest = [BALANCE * np.exp(make(rng, 4)) for _ in range(2)]
            false += _ever(before, same, rest, DECIDED)
            even += _ever(before, 0.95 * same, rest, frozenset({Verdict.EVEN}))
        print(f"{name:>18}  false {false / trials:.3f}  false even {even / trials:.3f}", flush=True)
        shares[name] = false / trials
    most = max(shares, key=lambda name: shares[name])
    mean = float(np.mean(list(shares.values())))
    what = "verdict: ever stamped with nothing changed, looked at after every boot"
    measured(what, mean, 0.05, "{:.1%}", f"{most} {shares[most]:.1%}")


def _ever(
    before: np.ndarray, after: np.ndarray, rest: list[np.ndarray], wanted: frozenset[Verdict]
) -> bool:
    for boots in LOOKS:
        shift = said(before[:boots], after[:boots], rest)
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
            before = BALANCE * np.exp(make(rng, 16))
            after = (BALANCE + true) * np.exp(make(rng, 16))
            shift = said(before[:4], after[:4])
            if shift.more_boots is None:
                continue
            asked += 1
            later = said(before[: 4 + shift.more_before], after[: 4 + shift.more_boots])
            kept += later.verdict is not Verdict.UNPROVEN
        print(f"{name:>18}  {kept / asked:.3f}", flush=True)


def turns(trials: int) -> None:
    """A host that gets 2 % slower with every boot."""
    print("\nDrift of 2 % a boot: the interval holds, false stamps, and its half width in seconds")
    designs = ("AAABBB", "AAAAABBBBB", "AAAAAABBBBBB", "ABBAAB", "ABBAABBAABBA", "AAABBBBBBAAA")
    worst = {"blocks": 0.0, "turns": 0.0}
    for design in designs:
        rng = np.random.default_rng(11)
        held, false, widths = 0, 0, []
        for _ in range(trials):
            boots = len(design)
            noise = np.exp(SPREAD * rng.standard_normal(boots) + 0.02 * np.arange(boots))
            for true in (SHIFT, 0.0):
                shift = compared(_in_rounds(design, noise, true))
                if true:
                    speed = math.exp(0.02 * (boots - 1) / 2)
                    held += shift.low <= true * speed <= shift.high
                    widths.append((shift.high - shift.low) / 2)
                else:
                    false += shift.verdict in DECIDED
        print(
            f"{design:>18}  holds {held / trials:.3f}  false {false / trials:.3f}  "
            f"±{np.median(widths):.2f}",
            flush=True,
        )
        kind = "blocks" if design.count("AB") + design.count("BA") == 1 else "turns"
        worst[kind] = max(worst[kind], false / trials)
    measured("verdict: false under drift, boots in blocks, worst", worst["blocks"], 0.08, "{:.1%}")
    measured("verdict: false under drift, boots in turns, worst", worst["turns"], 0.05, "{:.1%}")


def _in_rounds(design: str, noise: np.ndarray, true: float) -> list[tuple[str, list[float]]]:
    rounds: list[tuple[str, list[float]]] = []
    for letter, factor in zip(design, noise, strict=True):
        value = (BALANCE if letter == "A" else BALANCE + true) * float(factor)
        if rounds and rounds[-1][0] == letter:
            rounds[-1][1].append(value)
        else:
            rounds.append((letter, [value]))
    return rounds


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
    parser.add_argument("--trials", type=int, default=often(400, 20))
    parser.add_argument("--part", choices=[*parts, "all"], default="all")
    chosen = parser.parse_args()
    for name, part in parts.items():
        if chosen.part in {name, "all"}:
            part(chosen.trials)


if __name__ == "__main__":
    main()
