"""Trouble as the technician reads it."""

import re
from contextlib import contextmanager

import pytest

from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.wording.trouble import trouble_in_words


@contextmanager
def told(pattern: str, kind: type[Trouble] = Trouble):
    """Something is refused, in words that a pattern is found in."""
    with pytest.raises(kind) as caught:
        yield
    words = trouble_in_words(caught.value)
    assert re.search(pattern, words), words
