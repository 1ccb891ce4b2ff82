"""The location estimate of a round: the Hodges-Lehmann pseudo-median."""

from collections.abc import Sequence
from itertools import combinations_with_replacement


def pseudo_median(values: Sequence[float]) -> float:
    """Median of all pairwise means, each value paired with itself too (Hodges and Lehmann, 1963).

    Nearly as exact as the mean for well-behaved boots, and a single boot that went wrong among
    four or more moves it little.
    """
    means = sorted((a + b) / 2 for a, b in combinations_with_replacement(values, 2))
    middle = len(means) // 2  # loading the statistics package takes as long as reading the shelf
    return (means[middle] + means[~middle]) / 2
