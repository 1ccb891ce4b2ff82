"""Files are written whole and private, or not at all."""

import errno
import logging
import os
import stat

import pytest

from plucky_ledger.linux.files import make_folder, open_fresh, put_link, remove, write_whole
from plucky_ledger.usecases.jobs.logs import start_logging, stop_logging


def test_a_file_is_whole_and_only_its_owners(tmp_path):
    path = tmp_path / "armed.json"
    write_whole(path, b"one")
    write_whole(path, b"two")
    assert path.read_bytes() == b"two"
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    assert [one.name for one in tmp_path.iterdir()] == ["armed.json"]


def test_a_fresh_file_never_replaces_one(tmp_path):
    path = tmp_path / "unit.service"
    path.write_text("somebody's")
    with pytest.raises(FileExistsError):
        write_whole(path, b"ours", fresh=True)
    assert path.read_text() == "somebody's"
    assert [one.name for one in tmp_path.iterdir()] == ["unit.service"]


@pytest.mark.parametrize("step", ["fsync", "replace"])
def test_a_full_disk_leaves_what_was_there(tmp_path, monkeypatch, step):
    path = tmp_path / "armed.json"
    path.write_bytes(b"before")

    def full(*_, **__):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, step, full)
    with pytest.raises(OSError, match="No space"):
        write_whole(path, b"after")
    monkeypatch.undo()
    assert path.read_bytes() == b"before"
    assert [one.name for one in tmp_path.iterdir()] == ["armed.json"]


def test_a_link_in_its_place_is_replaced_and_not_followed(tmp_path):
    """Whoever may write the folder cannot make us write elsewhere."""
    elsewhere, path = tmp_path / "elsewhere", tmp_path / "armed.json"
    elsewhere.write_bytes(b"untouched")
    path.symlink_to(elsewhere)
    write_whole(path, b"ours")
    assert elsewhere.read_bytes() == b"untouched"
    assert not path.is_symlink()


def test_folders_are_private(tmp_path):
    folder = tmp_path / "a" / "b"
    make_folder(folder)
    assert [stat.S_IMODE(place.stat().st_mode) for place in (folder, folder.parent)] == [0o700] * 2


def test_the_log_is_kept_private_and_does_without_a_folder(tmp_path):
    file = start_logging(tmp_path / "state")
    logging.getLogger("plucky_ledger.capture.arming.arming").info("armed for %d boots", 2)
    assert "armed for 2 boots" in file.read_text()
    stop_logging()
    (tmp_path / "taken").write_text("a file where the folder should be")
    start_logging(tmp_path / "taken")
    logging.getLogger("plucky_ledger.capture.arming.arming").warning("goes on")
    stop_logging()
    assert (tmp_path / "taken").read_text() == "a file where the folder should be"


@pytest.mark.skipif(os.geteuid() != 0, reason="only the administrator can be led astray")
@pytest.mark.parametrize("way", ["folder", "above", "upwards"])
def test_the_administrator_follows_no_link_of_somebody_elses(tmp_path, way):
    """Writing, linking, removing and making folders below a folder that is a user's."""
    secret, home = tmp_path / "secret" / "below", tmp_path / "home"
    secret.mkdir(parents=True)
    home.mkdir()
    link = home / "below"
    link.symlink_to({"folder": secret, "above": secret.parent, "upwards": "../secret"}[way])
    folder = link if way == "folder" else link / "below"
    os.chown(home, 1234, 1234)
    (secret / "kept").write_text("the administrator's")
    for attempt in (
        lambda: write_whole(folder / "new", b"ours"),
        lambda: write_whole(folder / "kept", b"ours"),
        lambda: put_link(folder / "link", home),
        lambda: remove(folder / "kept"),
        lambda: make_folder(folder / "more"),
        lambda: open_fresh(folder / "fresh"),
    ):
        with pytest.raises(OSError, match="symbolic links"):
            attempt()
    assert [path.name for path in secret.iterdir()] == ["kept"]
    assert (secret / "kept").read_text() == "the administrator's"


@pytest.mark.skipif(os.geteuid() != 0, reason="only the administrator becomes somebody else")
def test_what_the_administrator_writes_in_a_users_folder_is_the_users(tmp_path):
    home, way = tmp_path / "home", tmp_path / "way"
    home.mkdir()
    os.chown(home, 1234, 1234)
    way.symlink_to("home")  # nobody else could have put this one there
    make_folder(way / "a" / "b")
    write_whole(way / "a" / "b" / "file", b"theirs")
    assert {path.lstat().st_uid for path in home.rglob("*")} == {1234}
    assert os.geteuid() == 0


@pytest.mark.skipif(os.geteuid() != 0, reason="only the administrator becomes somebody else")
def test_the_administrator_keeps_no_log_in_a_users_folder(tmp_path):
    """As where sudo keeps the user's own folders in the environment."""
    secret, state = tmp_path / "secret", tmp_path / "state"
    secret.write_text("the administrator's")
    state.mkdir()
    os.chown(state, 1234, 1234)
    (state / "plucky-ledger.log").symlink_to(secret)
    start_logging(state)
    logging.getLogger("plucky_ledger.capture.arming.arming").warning("armed")
    stop_logging()
    assert secret.read_text() == "the administrator's"
