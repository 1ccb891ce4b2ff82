"""Who is at the PC during a night shift, and what the PC was like at its beginning."""

import os
import struct
import time

from plucky_ledger.night import notice, snapshot
from plucky_ledger.night.people import AtThePc, Keyboards
from plucky_ledger.night.snapshot import LevelSnapshot, Snapshot

EVENT = struct.Struct("@llHHi")


def test_a_key_is_pressed_once_and_what_is_no_key_is_none(tmp_path):
    """Devices as the kernel has them: some bytes for each event."""
    (tmp_path / "input").mkdir()
    for name in ("event0", "event1"):
        os.mkfifo(tmp_path / "input" / name)
    (tmp_path / "input/mouse0").write_bytes(b"not asked")
    keyboards = Keyboards(tmp_path)
    assert not keyboards.pressed()
    device = os.open(tmp_path / "input/event1", os.O_WRONLY)
    moved, released = EVENT.pack(0, 0, 2, 0, 1), EVENT.pack(0, 0, 1, 30, 0)
    os.write(device, moved + released + b"half")
    assert not keyboards.pressed()
    os.write(device, EVENT.pack(0, 0, 1, 30, 1) * 100)
    assert keyboards.pressed()
    assert not keyboards.pressed()
    os.close(device)
    keyboards.close()


def test_a_person_is_who_is_signed_in_and_types(tmp_path, monkeypatch):
    (tmp_path / "pts").mkdir()
    (tmp_path / "pts/3").write_text("")
    (tmp_path / "input").mkdir()
    sessions = []
    monkeypatch.setattr(AtThePc, "_signed_in", lambda _self: sessions)
    here = AtThePc(tmp_path)
    monkeypatch.setattr(here._keyboards, "pressed", lambda: True)
    assert not here.somebody()  # a key, and nobody signed in: the sign-in screen
    sessions.append(("", 0.0))
    assert here.somebody()
    monkeypatch.setattr(here._keyboards, "pressed", lambda: False)
    assert not here.somebody()
    sessions.append(("pts/3", 0.0))
    os.utime(tmp_path / "pts/3", (here._since - 9, 0))
    assert not here.somebody()
    os.utime(tmp_path / "pts/3", (time.time() + 9, 0))
    assert here.somebody()
    sessions[:] = [("../pts/3/../../etc/passwd", 0.0)]
    assert not here.somebody()


def test_what_differs_is_named_by_path_and_entry(tmp_path):
    (tmp_path / "a.service").write_text("[Unit]\n")
    (tmp_path / "x.wants").mkdir()
    (tmp_path / "x.wants/a.service").symlink_to("../a.service")
    (tmp_path / "plucky-ledger-recorder.service").write_text("comes and goes")

    def now(**states):
        return Snapshot(LevelSnapshot(snapshot._files_below(tmp_path), states), None)

    before = now(a="on", b="off")
    assert snapshot.differences(before, now(a="on")) == ()
    (tmp_path / "plucky-ledger-recorder.service").unlink()
    (tmp_path / "a.service").chmod(0o600)
    (tmp_path / "x.wants/a.service").unlink()
    (tmp_path / "new").mkdir()
    assert snapshot.differences(before, now(a="off")) == tuple(
        sorted(["a", *(str(tmp_path / name) for name in ("a.service", "new", "x.wants/a.service"))])
    )


def test_a_notice_is_plain_text_on_the_sign_in_screen(tmp_path):
    issue = tmp_path / "issue.d/plucky.issue"
    notice.show("Ends \\n \x1b[2J so\u2028", os.geteuid(), issue)
    assert issue.read_text() == "Ends  n  [2J so \n\n"
    assert issue.stat().st_mode & 0o777 == 0o644
    notice.hide(issue)
    assert not issue.exists()
