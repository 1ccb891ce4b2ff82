"""The stopwatch: times another PC by eye, with marks that can be taken back."""

from collections.abc import Callable

from plucky_ledger.core.boots.marks import PERSON_MARKS, Mark

REACTION_SECONDS = 0.25
"""How far off a mark set by hand may be: a prepared person reacts to something seen within
0.2 to 0.3 s (Woods et al., 2015). Stated beside every figure timed by hand."""


class Stopwatch:
    """Counts from the power button. ``now`` is any clock that only goes forward, in seconds."""

    def __init__(self, now: Callable[[], float]) -> None:
        self._now = now
        self._instants: list[float] = []

    @property
    def marks(self) -> dict[Mark, float]:
        """Marks set so far, in seconds since power on."""
        return {
            mark: instant - self._instants[0]
            for mark, instant in zip(PERSON_MARKS, self._instants, strict=False)
        }

    @property
    def next_mark(self) -> Mark | None:
        """What the next press will mark; None when all is marked."""
        count = len(self._instants)
        return PERSON_MARKS[count] if count < len(PERSON_MARKS) else None

    @property
    def elapsed(self) -> float:
        """Seconds since power on; stands still once all is marked."""
        if not self._instants:
            return 0.0
        return (self._now() if self.next_mark else self._instants[-1]) - self._instants[0]

    def press(self) -> Mark | None:
        """Set the next mark now; returns it, or None when all is marked."""
        mark = self.next_mark
        if mark is not None:
            self._instants.append(self._now())
        return mark

    def take_back(self) -> Mark | None:
        """Take back the last mark; the time goes on. Returns it, or None when there is none."""
        if not self._instants:
            return None
        self._instants.pop()
        return PERSON_MARKS[len(self._instants)]
