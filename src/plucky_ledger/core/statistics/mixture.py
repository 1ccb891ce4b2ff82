"""Mixture model for slow boots: the centre of the boots of a state, and each boot's probability of
having gone wrong.

Most boots of a state scatter about one value, on the logarithm. Some go wrong because updates
install or a disk is checked: those are slower by anything, which is modelled as a uniform density
above the centre (Aitkin and Wilson, Technometrics 1980; Box and Tiao, Biometrika 1968).
Probabilities, centre and spread are estimated together by expectation-maximisation; a boot's weight
is 1 less its probability. With three boots a state the probabilities rest on the prior as much as
on the boots.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

FLOOR = 0.05
"""Least standard deviation, on the logarithm: boots nearer than this to the centre are never
outliers, however close the others lie."""
SLOW_DENSITY = 2.0
"""Density of slow boots per unit of the logarithm."""
SLOW_SHARE, SHARE_WEIGHT = 0.15, 8.0
"""Prior share of slow boots, and the number of boots that the prior is worth."""
FAST_SHARE = 0.001
"""Probability of an outlying fast boot."""
PRIOR_DEGREES = 0.5
WEIGHT_BORROW, ERROR_BORROW = 8.0, 1.0
"""Degrees of freedom borrowed from other states' spread: for the weights, and for the standard
error."""
QN = 2.2219
"""Factor that makes the first quartile of all pairwise distances a standard deviation (Rousseeuw
and Croux, JASA 1993)."""
ROUNDS = 25
STANDS_STILL = 1e-7
"""Convergence: centres that move no more than this between two iterations."""
ENOUGH, CANDIDATES = 40, 9
"""From this many boots in a state on, a sample of them gives the spread, and this many are tried as
starting points."""

Values = tuple[float, ...]


@dataclass(frozen=True)
class Centre:
    """Centre of the boots of one state."""

    middle: float
    weights: tuple[float, ...]
    """How far each boot counts; 1 less that is its chance of having gone wrong."""
    squares: float
    """Weighted sum of squares about the centre."""

    @property
    def weight(self) -> float:
        """Sum of the weights, summed exactly so that the order of the boots changes nothing."""
        return math.fsum(self.weights)

    @property
    def degrees(self) -> float:
        """Degrees of freedom of the sum of squares."""
        return max(0.0, self.weight - 1.0)


@dataclass(frozen=True)
class Mixture:
    """Mixture models of several states, fitted together."""

    own: tuple[Centre, ...]
    others: tuple[Centre, ...]
    """Centres of states that are not compared: they contribute to the pooled spread."""

    @property
    def degrees(self) -> float:
        """Degrees of freedom of the pooled spread."""
        own = sum(centre.degrees for centre in self.own)
        return own + min(ERROR_BORROW, sum(centre.degrees for centre in self.others))

    def variances(self) -> tuple[float, ...]:
        """Variance of one boot in each compared state: its own, shrunk towards the pooled one."""
        pooled = self._pooled()
        return tuple(
            (PRIOR_DEGREES * pooled + centre.squares) / (PRIOR_DEGREES + centre.degrees)
            for centre in self.own
        )

    def _pooled(self) -> float:
        """Pooled variance; never below that of the compared states, which another state's calm does
        not reduce.
        """
        squares = sum(centre.squares for centre in self.own)
        degrees = sum(centre.degrees for centre in self.own)
        alone = squares / degrees if degrees > 0 else 0.0
        return max(alone, _pooled(self.own, self.others, ERROR_BORROW))


@lru_cache(maxsize=1024)
def fit(own: tuple[Values, ...], others: tuple[Values, ...] = ()) -> Mixture | None:
    """Fit the boots of several states, each with one boot at least.

    Returns None where no state has two boots: nothing then tells the spread.
    """
    groups = [*own, *(other for other in others if len(other) > 1)]
    distances = sorted(
        abs(a - b) for group in groups for a, b in combinations(_some(group, ENOUGH), 2)
    )
    if not distances:
        return None
    spread = max(FLOOR, QN * distances[len(distances) // 4])
    share = SLOW_SHARE
    spreads = [spread] * len(groups)
    centres = [
        _weighted(group, [1.0] * len(group), _start(group, spread, share)) for group in groups
    ]
    for _ in range(ROUNDS):
        before = [centre.middle for centre in centres]
        centres = [
            _weighted(group, _weights(group, centre.middle, max(scale, FLOOR), share))
            for group, centre, scale in zip(groups, centres, spreads, strict=True)
        ]
        sided = [centre for centre in centres if len(centre.weights) > 2]
        wrong = sum(len(centre.weights) - centre.weight for centre in sided)
        seen = sum(len(centre.weights) for centre in sided)
        share = (SHARE_WEIGHT * SLOW_SHARE + wrong) / (SHARE_WEIGHT + seen)
        pooled = _pooled(centres[: len(own)], centres[len(own) :], WEIGHT_BORROW)
        spreads = [
            math.sqrt((PRIOR_DEGREES * pooled + centre.squares) / (PRIOR_DEGREES + centre.degrees))
            for centre in centres
        ]
        moved = max(abs(c.middle - at) for c, at in zip(centres, before, strict=True))
        if moved < STANDS_STILL:
            break
    return Mixture(tuple(centres[: len(own)]), tuple(centres[len(own) :]))


def _pooled(own: Sequence[Centre], others: Sequence[Centre], borrow: float) -> float:
    squares, degrees = sum(c.squares for c in own), sum(c.degrees for c in own)
    lent = sum(centre.degrees for centre in others)
    if lent > 0:
        share = min(borrow, lent) / lent
        squares += share * sum(centre.squares for centre in others)
        degrees += share * lent
    return squares / degrees if degrees > 0 else 0.0


def _start(values: Sequence[float], scale: float, share: float) -> float:
    """Starting point: the boot with the largest likelihood as centre; of two boots their mean."""
    if len(values) < 3:
        return sum(values) / len(values)
    return max(
        _some(sorted(values), CANDIDATES),
        key=lambda at: math.fsum(math.log(sum(_densities(v, at, scale, share))) for v in values),
    )


def _some(values: Sequence[float], enough: int) -> Sequence[float]:
    """All values of a few, or an even sample of many."""
    if len(values) <= enough:
        return values
    ordered = sorted(values)
    return [ordered[index * len(ordered) // enough] for index in range(enough)]


def _densities(value: float, middle: float, scale: float, share: float) -> tuple[float, float]:
    """Densities of a boot under "went right" and "went wrong"."""
    z = (value - middle) / scale
    odd = share if z > 0 else FAST_SHARE
    right = (1 - odd) * math.exp(-z * z / 2) / (scale * math.sqrt(2 * math.pi))
    return right, odd * SLOW_DENSITY


_HEIGHT = 1 / math.sqrt(2 * math.pi)


def _weights(values: Sequence[float], middle: float, scale: float, share: float) -> list[float]:
    height, slow = _HEIGHT / scale, share * SLOW_DENSITY
    fast, halved = FAST_SHARE * SLOW_DENSITY, -0.5 / (scale * scale)
    slow_right, fast_right = (1 - share) * height, (1 - FAST_SHARE) * height
    weights = []
    for value in values:
        away = value - middle
        right = math.exp(halved * away * away)
        if away > 0:
            right *= slow_right
            weights.append(right / (right + slow))
        else:
            right *= fast_right
            weights.append(right / (right + fast))
    most = max(weights)
    if sum(weights) >= 1.0:
        return weights
    # Not all boots of a state can have gone wrong: at least the likeliest one counts.
    return [weight / most if most > 0 else 1.0 for weight in weights]


def _weighted(
    values: Sequence[float], weights: Sequence[float], middle: float | None = None
) -> Centre:
    """Weighted mean and sum of squares, or those about a given centre."""
    if middle is None:
        total = math.fsum(weights)
        middle = math.fsum(w * v for w, v in zip(weights, values, strict=True)) / total
    squares = math.fsum(w * (v - middle) ** 2 for w, v in zip(weights, values, strict=True))
    return Centre(middle, tuple(weights), squares)
