"""Messages to the technician: all go through here. Plain Python, tested by what it recorded."""

import logging
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass

from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.wording.trouble import trouble_in_words

KEPT = 100
log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Message:
    """One sentence for the technician."""

    text: str
    bad: bool = False


class Door:
    """Tells messages to whoever listens; those said before anybody did are told then."""

    def __init__(self) -> None:
        self.records: deque[Message] = deque(maxlen=KEPT)
        self._listener: Callable[[Message], None] | None = None
        self._held: list[Message] = []

    def listen(self, listener: Callable[[Message], None]) -> None:
        """Be told from now on, and what was held back."""
        self._listener = listener
        held, self._held = self._held, []
        for message in held:
            listener(message)

    def say(self, text: str, bad: bool = False) -> None:
        """Tell the technician something; an empty text is nothing to tell."""
        if not text:
            return
        message = Message(text, bad)
        self.records.append(message)
        if self._listener is None:
            self._held.append(message)
        else:
            self._listener(message)

    def trouble(self, error: Exception) -> None:
        """Tell of trouble from outside; a bug is raised, so that the exception hook sees it."""
        if not isinstance(error, Trouble):
            raise error
        log.info("told: %s", error)
        self.say(trouble_in_words(error), bad=True)
