"""A second start on a ledger that has a window raises that one; on another it opens its own."""

import os
import shutil
import subprocess
import sys
import time

import pytest

from tests.helpers.bus import private_bus
from tests.usecases.test_sticks import BOOTS, FIRST

WITHIN_SECONDS = 60.0
HANDED_OVER = "another start hands over 1 files"


@pytest.fixture
def start(tmp_path):
    """Starts the window as the desktop does, on a session's bus of our own."""
    with private_bus() as address:
        environment = {
            **os.environ,
            "DBUS_SESSION_BUS_ADDRESS": address,
            "XDG_STATE_HOME": str(tmp_path / "state"),
            "XDG_DATA_HOME": str(tmp_path / "data"),
        }
        yield lambda *arguments: subprocess.Popen(
            [sys.executable, "-m", "plucky_ledger", *arguments],
            env=environment,
            stderr=subprocess.DEVNULL,
        )


def logged(tmp_path):
    return "".join(path.read_text() for path in tmp_path.glob("state/**/*.log"))


def wait_for(condition):
    deadline = time.monotonic() + WITHIN_SECONDS
    while not condition():
        assert time.monotonic() < deadline
        time.sleep(0.1)


@pytest.mark.skipif(shutil.which("dbus-daemon") is None, reason="it takes a message bus")
def test_a_second_start_hands_over_to_the_window_there_is(start, tmp_path):
    ledger = tmp_path / "data/plucky-ledger/workshop.ledger"
    first = start()
    wait_for(lambda: ledger.exists() and (first.poll() is None))
    recording = str(BOOTS / FIRST)
    wait_for(lambda: start("open", recording).wait(WITHIN_SECONDS) == 0)
    assert HANDED_OVER in logged(tmp_path)
    assert first.poll() is None
    other = start("--ledger", str(tmp_path / "other.ledger"), "--new")
    wait_for((tmp_path / "other.ledger").exists)
    time.sleep(0.5)
    assert other.poll() is None
    for window in (first, other):
        window.terminate()
        assert window.wait(WITHIN_SECONDS) == 0
