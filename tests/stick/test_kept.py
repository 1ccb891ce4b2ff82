"""Recordings on their way to the stick: whatever becomes of it, none is lost and none is twice."""

import errno
import gzip
import os
from pathlib import Path
from tempfile import TemporaryDirectory

import pytest

from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.this_boot import boot_id
from plucky_ledger.stick import kept, putting
from tests.helpers.users import SOMEBODY, needs_administrator

BUSY = f"boot-{boot_id()}.jsonl.gz"


@pytest.fixture
def stick():
    """The person's, as the desktop mounts one for them."""
    with TemporaryDirectory(prefix="stick-") as folder:
        os.chown(folder, SOMEBODY, SOMEBODY)
        yield Path(folder)


@pytest.fixture
def home(users_home, monkeypatch):
    """Of the person at the PC; the administrator was asked."""
    monkeypatch.setenv("SUDO_UID", str(SOMEBODY))
    monkeypatch.setattr("plucky_ledger.linux.users.homes", lambda: {SOMEBODY: users_home})
    return users_home


def recorded(name, content=b"one"):
    """A recording kept on the PC."""
    path = kept.made_on_the_pc() / name
    path.write_bytes(gzip.compress(content, mtime=0))
    return path


def on(stick):
    return sorted(path.name for path in stick.rglob("*.jsonl*"))


@needs_administrator
def test_it_is_the_persons_and_comes_to_the_stick(home, stick):
    path = recorded("boot-a.jsonl.gz")
    assert path.parent.stat().st_uid == SOMEBODY
    recorded(BUSY, b"still written to")
    came = kept.bring(stick)
    assert [found.name for found in came.there] == ["boot-a.jsonl.gz"]
    assert (came.left, came.why) == (0, None)
    assert [left.name for left in path.parent.iterdir()] == [BUSY]
    more = gzip.compress(b'{"kind":"end","goes_on":true}\n')
    (path.parent / BUSY).write_bytes(more)
    assert kept.bring(stick).there == ()  # it is looked on, slowly
    (path.parent / BUSY).write_bytes(more + gzip.compress(b'{"kind":"end","goes_on":false}\n'))
    came = kept.bring(stick)
    assert on(stick) == sorted(["boot-a.jsonl.gz", BUSY])
    assert not [*home.iterdir()]  # what was made for it went with the last


@needs_administrator
def test_a_recording_of_one_name_is_never_written_over(home, stick):
    for content in (b"one", b"one", b"two"):
        recorded("boot-a.jsonl.gz", content)
        kept.bring(stick)
    assert on(stick) == ["2-boot-a.jsonl.gz", "boot-a.jsonl.gz"]


def refusing(number, after=0):
    """A call that fails like a drive that is full, read-only or gone, after so many that do not."""
    calls = 0

    def refuse(*_, **__):
        nonlocal calls
        calls += 1
        if calls > after:
            raise OSError(number, os.strerror(number))

    return refuse


@needs_administrator
@pytest.mark.parametrize("fault", [errno.ENOSPC, errno.EROFS, errno.EIO])
@pytest.mark.parametrize("after", [0, 1])
def test_what_the_stick_does_not_take_stays(home, stick, monkeypatch, fault, after):
    paths = [recorded("boot-a.jsonl.gz"), recorded("boot-b.jsonl.gz", b"two")]
    with monkeypatch.context() as patched:
        patched.setattr(putting.os, "fsync", refusing(fault, 2 * after))  # with what it is of
        came = kept.bring(stick)
    assert (len(came.there), came.left) == (after, 2 - after)
    assert came.why is not None
    assert [path.exists() for path in paths] == [after == 0, True]
    assert len(on(stick)) == after
    assert not [*stick.rglob("*.part")]
    assert kept.bring(stick).why is None
    assert on(stick) == ["boot-a.jsonl.gz", "boot-b.jsonl.gz"]


@needs_administrator
def test_what_says_which_pc_it_is_of_is_mended_where_it_was_torn(home, stick):
    recorded("boot-a.jsonl.gz")
    (first,) = kept.bring(stick).there
    about = first.parent / kept.ABOUT
    whole = about.read_bytes()
    for torn in (b"", whole[:10]):
        about.write_bytes(torn)
        recorded("boot-b.jsonl.gz")
        kept.bring(stick)
        assert about.read_bytes() == whole


def test_nobody_but_the_administrator_records_for_another_person(home, monkeypatch):
    monkeypatch.setattr(kept, "is_administrator", lambda: False)
    assert kept.person() == os.geteuid()
    monkeypatch.setattr(kept, "is_administrator", lambda: True)
    assert kept.person() == SOMEBODY


@needs_administrator
def test_a_stick_that_was_pulled_takes_nothing(home, tmp_path):
    path = recorded("boot-a.jsonl.gz")
    blocked = tmp_path / "gone"
    blocked.write_text("no folder any more")
    came = kept.bring(blocked)
    assert (came.there, came.left) == ((), 1)
    assert path.exists()


@needs_administrator
def test_a_stick_that_gives_back_something_else_is_not_believed(home, stick, monkeypatch):
    path = recorded("boot-a.jsonl.gz")
    read = Path.read_bytes
    monkeypatch.setattr(
        Path, "read_bytes", lambda p: b"bad" if p.name.endswith(".part") else read(p)
    )
    came = kept.bring(stick)
    assert (came.there, came.left) == ((), 1)
    assert path.exists()
    assert not on(stick)


@needs_administrator
def test_a_link_in_the_persons_folder_leads_the_administrator_nowhere(home, stick, tmp_path):
    secret = tmp_path / "secret.jsonl.gz"
    secret.write_bytes(b"of the administrator")
    folder = kept.made_on_the_pc()
    (folder / "boot-a.jsonl.gz").symlink_to(secret)
    assert kept.bring(stick).there == ()
    assert not on(stick)


@needs_administrator
def test_a_stick_on_which_others_may_have_put_links_is_the_persons_to_write_to(home, tmp_path):
    """The administrator writes only where nobody else could have led it elsewhere."""
    path, aim = recorded("boot-a.jsonl.gz"), tmp_path / "aim"
    aim.mkdir()
    with TemporaryDirectory(prefix="stick-") as name:
        Path(name).chmod(0o777)
        (Path(name) / kept.ON_THE_STICK).symlink_to(aim)
        assert kept.bring(Path(name)).left == 1
        assert path.exists()
        assert not [*aim.iterdir()]


def test_a_person_without_a_home_is_told(monkeypatch):
    monkeypatch.setenv("SUDO_UID", "54321")
    with pytest.raises(Trouble):
        kept.made_on_the_pc()
