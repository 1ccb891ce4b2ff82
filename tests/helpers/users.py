"""An ordinary user beside the administrator who runs the tests."""

import os

import pytest

SOMEBODY = 1234
"""An ordinary user, known to nobody."""
needs_administrator = pytest.mark.skipif(
    os.geteuid() != 0, reason="only the administrator can become somebody else"
)
