"""Student's t distribution: quantiles and tail probabilities.

Own code because the numerics package that has it takes longer to load than the window takes to
open.
"""

import math
from functools import cache

CONFIDENCE = 0.95


@cache
def student_t(degrees: float, share: float = CONFIDENCE) -> float:
    """Two-sided quantile, such as 2.776 for 95 % and 4 degrees of freedom.

    Newton's method on the logarithms of value and tail (Abramowitz and Stegun, 26.7.1), where the
    tail is nearly a straight line.
    """
    log_share = math.log(1.0 - share)
    value = 2.0
    for _ in range(60):
        tail = outside(value, degrees)
        slope = 2 * value * _density(value, degrees) / tail
        step = max(-1.5, min(1.5, (math.log(tail) - log_share) / slope))
        value *= math.exp(step)
        if abs(step) < 1e-13:
            break
    return value


def _density(value: float, degrees: float) -> float:
    return math.exp(
        math.lgamma((degrees + 1) / 2)
        - math.lgamma(degrees / 2)
        - (degrees + 1) / 2 * math.log1p(value * value / degrees)
    ) / math.sqrt(degrees * math.pi)


def outside(value: float, degrees: float) -> float:
    """Two-sided tail probability beyond ``value``: the incomplete beta function by its continued
    fraction (Lentz's method).
    """
    if math.isinf(value):
        return 0.0
    x = degrees / (degrees + value * value)
    a, b = degrees / 2, 0.5
    if x >= 1.0:
        return 1.0
    if x <= 0.0:
        return 0.0
    front = math.exp(
        math.lgamma(a + b)
        - math.lgamma(a)
        - math.lgamma(b)
        + a * math.log(x)
        + b * math.log(1.0 - x)
    )
    if x < (a + 1) / (a + b + 2):
        return front * _fraction(x, a, b) / a
    return 1.0 - front * _fraction(1.0 - x, b, a) / b


def _fraction(x: float, a: float, b: float) -> float:
    c, d = 1.0, 1.0 / (1.0 - (a + b) * x / (a + 1.0))
    total = d
    for m in range(1, 200):
        for term in (
            m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m)),
            -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1)),
        ):
            d = 1.0 / (1.0 + term * d)
            c = 1.0 + term / c
            total *= c * d
        if abs(c * d - 1.0) < 1e-14:
            break
    return total
