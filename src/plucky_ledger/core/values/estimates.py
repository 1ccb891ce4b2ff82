"""Estimates: a figure in seconds with its interval."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Estimate:
    """A figure with its 95 % interval, in seconds."""

    value: float
    low: float
    high: float
