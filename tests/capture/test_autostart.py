"""Desktop entries: the override rules, and files nobody should trust."""

import os

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.autostart import (
    autostart_entries,
    autostart_folders,
    executable_of,
    read_entry,
)


@pytest.fixture
def folders(tmp_path):
    """The user's folder and the system's."""
    found = tmp_path / "own", tmp_path / "shared"
    for folder in found:
        folder.mkdir()
    return found


def write(folder, name, *lines):
    (folder / f"{name}.desktop").write_text("\n".join(["[Desktop Entry]", *lines]) + "\n")


def entries(folders, *desktops):
    return {entry.entry: entry for entry in autostart_entries(folders, desktops)}


def test_the_users_entry_wins_over_the_systems(folders):
    write(folders[1], "logbook", "Name=Logbook", "Exec=/bin/sh -c true")
    write(folders[0], "logbook", "Name=Mine", "Exec=/bin/true", "Hidden=true")
    found = entries(folders)
    assert len(found) == 1
    assert (found["logbook.desktop"].owner, found["logbook.desktop"].off_because) == (
        "user",
        "hidden",
    )


@pytest.mark.parametrize(
    ("line", "desktops", "reason"),
    [
        ("OnlyShowIn=QUAY;", ("PIER",), "only for QUAY"),
        ("OnlyShowIn=QUAY;PIER;", ("PIER",), ""),
        ("NotShowIn=PIER;", ("PIER",), "not for PIER"),
        ("TryExec=/nowhere/program", (), "/nowhere/program is not there"),
        ("TryExec=sh", (), ""),
        ("X-GNOME-Autostart-enabled=false", (), "switched off"),
    ],
)
def test_conditions_of_the_specification(folders, line, desktops, reason):
    write(folders[1], "x", "Name=X", "Exec=/bin/sh", line)
    assert entries(folders, *desktops)["x.desktop"].off_because == reason


def test_a_program_that_is_gone_is_left_behind(folders):
    write(folders[1], "windlass", "Name=Windlass Toolbar", "Exec=/opt/windlass/toolbar --tray")
    assert entries(folders)["windlass.desktop"].left_behind


@pytest.mark.parametrize(
    ("command", "program"),
    [
        ("/opt/x/run --tray", "/opt/x/run"),
        ('"/opt/with blank/run" --tray', "/opt/with blank/run"),
        ("env", "env"),
        ('broken "quote', "broken"),
        ("", ""),
    ],
)
def test_the_program_is_the_first_word(command, program):
    assert executable_of(command) == program


def test_hostile_files_are_named_with_their_fault(folders):
    own = folders[0]
    (own / "binary.desktop").write_bytes(b"[Desktop Entry]\nExec=x\0y\n")
    (own / "huge.desktop").write_bytes(b"#" * 100_000)
    (own / "empty.desktop").write_bytes(b"")
    (own / "latin.desktop").write_bytes(b"[Desktop Entry]\nName=Caf\xe9\nExec=/bin/sh\n")
    os.symlink(own / "circle.desktop", own / "circle.desktop")
    os.mkfifo(own / "pipe.desktop")
    (own / "folder.desktop").mkdir()
    found = entries(folders)
    for name in ("binary", "huge", "empty", "circle", "pipe", "folder"):
        assert found[f"{name}.desktop"].off_because, name
    assert found["latin.desktop"].off_because == ""


@given(st.binary(max_size=300))
def test_no_file_breaks_the_reader(tmp_path_factory, data):
    path = tmp_path_factory.mktemp("any") / "x.desktop"
    path.write_bytes(data)
    assert read_entry(path).path == path
    assert len(autostart_entries([path.parent], [])) == 1


def test_folders_follow_the_environment(tmp_path):
    environment = {"XDG_CONFIG_HOME": "/own", "XDG_CONFIG_DIRS": "/a:/b"}
    assert [str(f) for f in autostart_folders(environment, tmp_path)] == [
        "/own/autostart", "/a/autostart", "/b/autostart"]  # fmt: skip
    assert str(autostart_folders({}, tmp_path)[1]) == "/etc/xdg/autostart"
