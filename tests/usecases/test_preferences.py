"""Preferences: kept in a file that anybody may damage, and used where they are about."""

import pytest

from plucky_ledger.usecases.jobs.preferences import (
    Preferences,
    keep_preferences,
    preferences_file,
    read_preferences,
)
from tests.helpers.trouble import told


@pytest.fixture(autouse=True)
def own_folder(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))


def test_what_is_preferred_is_kept():
    wanted = Preferences(boots=5, look_minutes=0, log_level="debug")
    assert read_preferences() == Preferences()
    keep_preferences(wanted)
    assert read_preferences() == wanted
    assert preferences_file().stat().st_mode & 0o077 == 0


@pytest.mark.parametrize(
    "text",
    [b"", b"{", b"[]", b'{"boots": 0}', b'{"boots": 1e9}', b'{"look_minutes": -1}', b"\xff" * 9],
)
def test_what_cannot_be_is_left_out(text):
    preferences_file().parent.mkdir(parents=True)
    preferences_file().write_bytes(text)
    assert read_preferences() == Preferences()


def test_what_a_later_version_keeps_is_no_fault():
    preferences_file().parent.mkdir(parents=True)
    preferences_file().write_text('{"boots": 7, "tide": "high"}')
    assert read_preferences() == Preferences(boots=7)


def test_where_nothing_can_be_written_that_is_said():
    preferences_file().parent.parent.mkdir(parents=True, exist_ok=True)
    preferences_file().parent.write_text("no folder")
    with told("could not be written"):
        keep_preferences(Preferences())
