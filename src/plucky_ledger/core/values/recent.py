"""A least-recently-used cache."""

from collections import OrderedDict
from collections.abc import Hashable
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Recent(Generic[K, V]):
    """Values by key, at most ``most`` of them; the one not used for longest goes first.

    It is not thread-safe.
    """

    def __init__(self, most: int) -> None:
        self._most = most
        self._values: OrderedDict[K, V] = OrderedDict()

    def get(self, key: K) -> V | None:
        """The value under a key, used just now; None where there is none."""
        if key not in self._values:
            return None
        self._values.move_to_end(key)
        return self._values[key]

    def keep(self, key: K, value: V) -> V:
        """Keep a value, and give it back."""
        self._values[key] = value
        self._values.move_to_end(key)
        while len(self._values) > self._most:
            self._values.popitem(last=False)
        return value
