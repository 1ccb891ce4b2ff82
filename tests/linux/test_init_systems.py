"""What init systems start, read from their folders as they lie on a PC."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.services.init_scripts import lines_of_init_scripts
from plucky_ledger.linux.init_systems.running import InitSystem, init_scripts, init_system
from plucky_ledger.linux.init_systems.script import Header, program_in
from plucky_ledger.linux.sessions import recorded_sessions
from plucky_ledger.linux.sign_in_records import LONG, SHORT, records
from plucky_ledger.recording.lines import ActivityLine, EntryLine, SourceLine
from tests.made_up_pcs.init_systems import HEADER, made_up_pc


@pytest.mark.parametrize("system", InitSystem)
def test_each_system_is_known_and_what_it_starts(tmp_path, system):
    made_up_pc(tmp_path, system)
    assert init_system(tmp_path) is system
    scripts = {script.name: script for script in init_scripts(system, tmp_path)}
    assert {name: script.on for name, script in scripts.items()} == {
        "rope-sync": True,
        "buoy-light": False,
        "hull-mount": True,
    }
    rope = scripts["rope-sync"]
    assert rope.program.split()[0] == "/opt/rope/sync"
    assert "hull" in rope.after or "hull-mount" in rope.after
    assert scripts["hull-mount"].early or system is InitSystem.RUNIT
    (tmp_path / "run/systemd/system").mkdir(parents=True)
    assert init_system(tmp_path) is None


@pytest.mark.parametrize("system", InitSystem)
def test_a_recording_lists_it_with_what_it_waits_for(tmp_path, system):
    made_up_pc(tmp_path, system)
    lines = list(lines_of_init_scripts(system, tmp_path))
    entries = {line.entry: line for line in lines if isinstance(line, EntryLine)}
    waits = {line.entry: line.after for line in lines if isinstance(line, ActivityLine)}
    (source,) = (line for line in lines if isinstance(line, SourceLine))
    assert set(entries) == {"init:rope-sync", "init:buoy-light", "init:hull-mount"}
    assert source.entries == 3
    assert entries["init:buoy-light"].off is not None
    assert "init:buoy-light" not in waits
    assert "init:hull-mount" in waits["init:rope-sync"]
    assert entries["init:rope-sync"].command.startswith("/opt/rope/sync")


def test_a_pc_whose_first_process_is_something_else_has_none(tmp_path):
    made_up_pc(tmp_path, InitSystem.SYSVINIT)
    (tmp_path / "proc/1/comm").write_text("sh\n")
    assert init_system(tmp_path) is None
    (tmp_path / "proc/1/comm").unlink()
    assert init_system(tmp_path) is None


def test_what_is_no_script_is_left_out(tmp_path):
    made_up_pc(tmp_path, InitSystem.SYSVINIT)
    folder = tmp_path / "etc/init.d"
    (folder / "halt").write_text(HEADER.format(provides="halt", after="", levels="", title="Halt"))
    (folder / "rope-sync.dpkg-old").write_text("#!/bin/sh\n")
    (folder / "a folder").mkdir()
    (folder / "gone").symlink_to("/nowhere")
    (folder / "loop").symlink_to("loop")
    (tmp_path / "etc/rc2.d/S01gone").symlink_to("../init.d/gone")
    names = {script.name for script in init_scripts(InitSystem.SYSVINIT, tmp_path)}
    assert names == {"rope-sync", "buoy-light", "hull-mount"}


@given(st.binary(max_size=400))
def test_any_text_is_read(text):
    said = text.decode("utf-8", "replace")
    assert program_in(said) == "" or program_in(said).startswith("/")
    assert isinstance(Header.of(f"### BEGIN INIT INFO\n{said}### END INIT INFO").after, tuple)


@pytest.mark.parametrize(
    ("text", "program"),
    [
        ("NAME=rope\nDAEMON=/opt/$NAME/${NAME}d\n", "/opt/rope/roped"),
        ("start-stop-daemon --start --exec /usr/sbin/buoy -- -D\n", "/usr/sbin/buoy"),
        ('command="/usr/bin/tide"\n', "/usr/bin/tide"),
        ("DAEMON=$DAEMON\n", ""),
        ("DAEMON=relative\nexec /opt/x\n", ""),
    ],
)
def test_the_program_of_a_script(text, program):
    assert program_in(text) == program


@pytest.mark.parametrize("form", [SHORT, LONG])
def test_records_of_both_lengths_are_read(tmp_path, form):
    """The longer ones are those of other processors."""

    def record(kind, line, user, seconds):
        return form.pack(
            kind, 1, line, b"", user, b"", 0, 0, 0, seconds, 250_000, bytes(16), bytes(20)
        )

    path = tmp_path / "utmp"
    path.write_bytes(
        record(2, b"~", b"reboot", 1_700_000_000)
        + record(7, b"pts/0", b"nobody-known", 1_700_000_050)
        + record(7, b"tty1", b"root", 1_700_000_060)
        + b"cut"
    )
    read = records(path)
    assert [(one.kind, one.user, one.at) for one in read] == [
        (2, "reboot", 1_700_000_000.25),
        (7, "nobody-known", 1_700_000_050.25),
        (7, "root", 1_700_000_060.25),
    ]
    (tmp_path / "1").mkdir()
    (tmp_path / "uptime").write_text("100.0 1.0\n")
    (session,) = recorded_sessions(path, tmp_path)
    assert (session.name, session.user, session.seat) == ("root", 0, "seat0")


@given(st.binary(max_size=1200))
def test_any_records_are_read(tmp_path_factory, data):
    path = tmp_path_factory.mktemp("records") / "wtmp"
    path.write_bytes(data)
    assert all(one.at >= 0 for one in records(path))
