"""Fixtures all tests share: a demo ledger recorded once, fresh ledgers, and a window."""

import os
import shutil
import tempfile
import time
from pathlib import Path

import pytest
from filelock import FileLock
from hypothesis import HealthCheck, settings

from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.demo import write_demo
from plucky_ledger.wording import language
from tests.helpers.processes import StartedProcesses, unwind_when_ended
from tests.helpers.users import SOMEBODY

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["TZ"] = "UTC"
for name in ("LANGUAGE", "LC_ALL", "LC_MESSAGES"):
    os.environ.pop(name, None)
os.environ["LANG"] = "C.UTF-8"
SOMEBODYS = Path(tempfile.mkdtemp(prefix="plucky-ledger-tests-"))
"""Preferences and logs of whoever runs the tests: nobody's own."""
os.environ["XDG_CONFIG_HOME"] = str(SOMEBODYS / "config")
os.environ["XDG_STATE_HOME"] = str(SOMEBODYS / "state")
os.environ["XDG_DATA_HOME"] = str(SOMEBODYS / "data")
time.tzset()

settings.register_profile(
    "desk", max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow]
)
settings.register_profile("ci", parent=settings.get_profile("desk"), max_examples=100)
settings.register_profile("mutants", parent=settings.get_profile("desk"), derandomize=True)
language.use("en")

settings.load_profile("ci" if os.environ.get("CI") else "desk")


def pytest_unconfigure() -> None:
    """Nothing of ours is left on the machine."""
    shutil.rmtree(SOMEBODYS, ignore_errors=True)


STARTED = StartedProcesses()
unwind_when_ended()


@pytest.fixture(autouse=True)
def no_process_left_behind():
    """Whatever a test started and did not end is ended with it."""
    before = STARTED.there()
    yield
    STARTED.end(before)


@pytest.fixture(scope="session")
def recorded_demo(tmp_path_factory, worker_id) -> Path:
    """The demo ledger, recorded from the stand-in PC once for all tests. Not to be written in."""
    base = tmp_path_factory.getbasetemp()
    shared = base if worker_id == "master" else base.parent
    path = shared / "demo.ledger"
    with FileLock(shared / "demo.lock"):
        if not path.exists():
            assert write_demo(path, lambda _done, _total: True)
    return path


@pytest.fixture
def demo_path(recorded_demo, tmp_path) -> Path:
    """A demo ledger of one's own."""
    return Path(shutil.copy(recorded_demo, tmp_path / "demo.ledger"))


def pytest_addoption(parser: pytest.Parser) -> None:
    """What runs on a file runs on a server as well."""
    parser.addoption("--on-server", action="store_true", help="ledgers are on a server")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """On a server: what has a ledger and is not about the file itself."""
    if not config.getoption("on_server"):
        return
    has_ledger = [item for item in items if {"place", "demo_place"} & set(item.fixturenames)]
    items[:] = [item for item in has_ledger if not item.get_closest_marker("in_a_file")]


@pytest.fixture
def place(request, tmp_path):
    """Where a fresh ledger is to lie."""
    if request.config.getoption("on_server"):
        return request.getfixturevalue("server").ledger()
    return tmp_path / "workshop.ledger"


@pytest.fixture
def demo_place(request):
    """Where a demo ledger of one's own lies."""
    if request.config.getoption("on_server"):
        recorded = request.getfixturevalue("recorded_demo")
        return request.getfixturevalue("server").demo(recorded)
    return request.getfixturevalue("demo_path")


@pytest.fixture
def ledger(place):
    """A fresh ledger."""
    with Ledger(place) as fresh:
        yield fresh


@pytest.fixture
def demo(demo_place):
    """The demo ledger, opened."""
    with Ledger(demo_place) as opened:
        yield opened


@pytest.fixture(scope="session")
def server():
    """A database server of the tests' own, as long as they run."""
    from tests.helpers.server import running_server

    with running_server() as running:
        yield running


@pytest.fixture
def users_home(monkeypatch):
    """The home folder of an ordinary user that its user can reach."""
    home = Path(tempfile.mkdtemp(prefix="plucky-ledger-home-"))
    os.chown(home, SOMEBODY, SOMEBODY)
    home.chmod(0o700)
    monkeypatch.setattr("plucky_ledger.linux.users.homes", lambda: {SOMEBODY: home})
    yield home
    shutil.rmtree(home)
