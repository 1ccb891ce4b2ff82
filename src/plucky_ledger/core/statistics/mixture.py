"""Mixture model for boots that went wrong: the centre of the boots of a state, and each boot's
probability of being none of them.

Most boots of a state scatter about one value, on the logarithm. Some go wrong because updates
install or a disk is checked: those are slower by anything, which is modelled as a uniform density
above the centre (Aitkin and Wilson, Technometrics 1980; Box and Tiao, Biometrika 1968). A few are
too quick, because something failed to start. Probabilities, centre and spread are estimated
together by expectation-maximisation; a boot's weight is 1 less its probability. With three boots a
state the probabilities rest on the prior as much as on the boots.

Those that went wrong are the exception: where half the boots of a state would be, or where they
agree better with each other and another state than the rest do, none of them counts for less.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

FLOOR = 0.05
"""Least standard deviation, on the logarithm: boots nearer than this to the centre are never
outliers, however close the others lie."""
ODD_DENSITY = 2.0
"""Density of boots that went wrong per unit of the logarithm, to either side."""
SLOW_SHARE, SHARE_WEIGHT = 0.15, 8.0
"""Prior share of slow boots, and the number of boots that the prior is worth."""
FAST_SHARE, MOST_FAST = 0.03, 0.1
"""Prior share of fast boots that went wrong, and the most that is learnt."""
FAR = 0.5
"""Boots of a smaller weight are called odd."""
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
ON_THE_CENTRE = 1e-9
"""Boots nearer than this to the centre are to neither side of it: rounding must not decide."""
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
    even: frozenset[int] = frozenset()
    while True:
        centres = _fitted(groups, len(own), even)
        if centres is None:
            return None
        doubtful = {
            place
            for place, centre in enumerate(centres)
            if place not in even and not _are_exceptions(place, groups, centres)
        }
        if not doubtful:
            return Mixture(tuple(centres[: len(own)]), tuple(centres[len(own) :]))
        even |= doubtful


def _are_exceptions(place: int, groups: Sequence[Values], centres: Sequence[Centre]) -> bool:
    """Whether what is odd in a state is fewer boots than the rest, and agrees no better."""
    values, centre = groups[place], centres[place]
    odd = [v for v, w in zip(values, centre.weights, strict=True) if w < FAR]
    if len(odd) > (len(values) - 1) // 2:
        return False
    if len(odd) < 2:
        return True
    apart = math.sqrt(centre.squares / centre.weight)
    middles = [other.middle for at, other in enumerate(centres) if at != place]
    return all(_distance(odd, middle) >= apart for middle in middles)


def _distance(values: Sequence[float], middle: float) -> float:
    """Of some boots to the centre of others, typically."""
    return math.sqrt(math.fsum((value - middle) ** 2 for value in values) / len(values))


def _fitted(groups: Sequence[Values], compared: int, even: frozenset[int]) -> list[Centre] | None:
    """The centres of all states; in those of ``even`` every boot counts. The first ``compared`` are
    those that are compared.
    """
    distances = sorted(
        abs(a - b) for group in groups for a, b in combinations(_some(group, ENOUGH), 2)
    )
    if not distances:
        return None
    spread = max(FLOOR, QN * distances[len(distances) // 4])
    odd = Odd()
    spreads = [spread] * len(groups)
    centres = [_weighted(group, [1.0] * len(group)) for group in groups]
    for place, group in enumerate(groups):
        if len(group) > 2 and place not in even:
            at = _start(group, spread, odd)
            centres[place] = _weighted(group, [1.0] * len(group), at)
    for _ in range(ROUNDS):
        before = [centre.middle for centre in centres]
        centres = [
            _weighted(
                group,
                [1.0] * len(group)
                if place in even
                else _weights(group, centre.middle, max(scale, FLOOR), odd),
            )
            for place, (group, centre, scale) in enumerate(
                zip(groups, centres, spreads, strict=True)
            )
        ]
        odd = _odd(groups, centres)
        pooled = _pooled(centres[:compared], centres[compared:], WEIGHT_BORROW)
        spreads = [
            math.sqrt((PRIOR_DEGREES * pooled + centre.squares) / (PRIOR_DEGREES + centre.degrees))
            for centre in centres
        ]
        moved = max(abs(c.middle - at) for c, at in zip(centres, before, strict=True))
        if moved < STANDS_STILL:
            break
    return centres


@dataclass(frozen=True)
class Odd:
    """Shares of the boots that went wrong."""

    slow: float = SLOW_SHARE
    fast: float = FAST_SHARE


def _odd(groups: Sequence[Values], centres: Sequence[Centre]) -> Odd:
    """What the boots say of these shares, beside what was known before."""
    wrong = [0.0, 0.0]
    seen = 0
    for group, centre in zip(groups, centres, strict=True):
        if len(group) > 2:
            seen += len(group)
            for value, weight in zip(group, centre.weights, strict=True):
                wrong[value < centre.middle - ON_THE_CENTRE] += 1 - weight
    of = SHARE_WEIGHT + seen
    slow = (SHARE_WEIGHT * SLOW_SHARE + wrong[0]) / of
    return Odd(slow, min(MOST_FAST, (SHARE_WEIGHT * FAST_SHARE + wrong[1]) / of))


def _pooled(own: Sequence[Centre], others: Sequence[Centre], borrow: float) -> float:
    squares, degrees = sum(c.squares for c in own), sum(c.degrees for c in own)
    lent = sum(centre.degrees for centre in others)
    if lent > 0:
        share = min(borrow, lent) / lent
        squares += share * sum(centre.squares for centre in others)
        degrees += share * lent
    return squares / degrees if degrees > 0 else 0.0


def _start(values: Sequence[float], scale: float, odd: Odd) -> float:
    """Starting point: the boot with the largest likelihood as centre."""
    heard = _some(values, ENOUGH)
    return max(
        _some(sorted(values), CANDIDATES),
        key=lambda at: math.fsum(math.log(_density(v, at, scale, odd)) for v in heard),
    )


def _some(values: Sequence[float], enough: int) -> Sequence[float]:
    """All values of a few, or an even sample of many."""
    if len(values) <= enough:
        return values
    ordered = sorted(values)
    return [ordered[index * len(ordered) // enough] for index in range(enough)]


def _density(value: float, middle: float, scale: float, odd: Odd) -> float:
    """Density of a boot, whether it went right or wrong."""
    z = (value - middle) / scale
    share = odd.slow if value - middle > ON_THE_CENTRE else odd.fast
    right = (1 - share) * math.exp(-z * z / 2) / (scale * math.sqrt(2 * math.pi))
    return right + share * ODD_DENSITY


_HEIGHT = 1 / math.sqrt(2 * math.pi)


def _weights(values: Sequence[float], middle: float, scale: float, odd: Odd) -> list[float]:
    height, slow = _HEIGHT / scale, odd.slow * ODD_DENSITY
    fast, halved = odd.fast * ODD_DENSITY, -0.5 / (scale * scale)
    slow_right, fast_right = (1 - odd.slow) * height, (1 - odd.fast) * height
    weights = []
    for value in values:
        away = value - middle
        right = math.exp(halved * away * away)
        if away > ON_THE_CENTRE:
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
