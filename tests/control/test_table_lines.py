"""Lines of the system's tables: switched by a mark alone, and nothing else of root's is written."""

import os
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.services.start_files import lines_of
from plucky_ledger.control.control_of_this_pc import ControlOfThisPc
from plucky_ledger.control.permitted_writes import PermittedWrites
from plucky_ledger.control.scope import is_name_of_an_entry
from plucky_ledger.control.table_lines import TableLines
from plucky_ledger.control.writes import File, FileWrite, Link, carry_out, content_of
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import Refused
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.start_files.tables import OFF_MARK, every_table, said_in

TABLE = (
    "# moorings\nSHELL=/bin/sh\n@reboot root /opt/mooring/check --all 100\\% # each\r\n"
    "17 * * * * root /opt/mooring/hourly\n\t@Reboot  root\t/opt/mooring/late"
)
LINES = [line for line in TABLE.split("\n") if "eboot" in line]
"""The last has no line end."""


@pytest.fixture
def etc(tmp_path):
    (tmp_path / "etc/cron.d").mkdir(parents=True)
    (tmp_path / "etc/crontab").write_text("@reboot root /opt/mooring/check --all\n")
    (tmp_path / "etc/cron.d/mooring").write_bytes(TABLE.encode())
    for path in ("etc/crontab", "etc/cron.d/mooring"):
        (tmp_path / path).chmod(0o640)
    return tmp_path / "etc"


def tables(etc: Path) -> TableLines:
    return TableLines(etc, os.geteuid())


def permitted(etc: Path) -> PermittedWrites:
    return PermittedWrites.of_the_system(Folders(etc, (), etc=etc))


def ids(etc: Path) -> list[str]:
    path = str(etc / "cron.d/mooring")
    found = (said_in(line, path, "") for line in LINES)
    return [line.entry_id for line in found if line is not None]


def test_a_line_is_switched_off_and_on_and_every_byte_is_as_it_was(etc):
    path, before = etc / "cron.d/mooring", TABLE.encode()
    assert len(ids(etc)) == 2
    for entry_id, line in zip(ids(etc), LINES, strict=True):
        assert is_name_of_an_entry(entry_id)
        assert tables(etc).look(entry_id).state is EntryState.ON
        (write,) = tables(etc).writes(entry_id, EntryState.OFF)
        assert write.path == str(path)
        assert permitted(etc).permit([write, write.undone])
        carry_out(write)
        assert path.read_bytes() == before.replace(line.encode(), (OFF_MARK + line).encode())
        assert path.stat().st_mode & 0o777 == 0o640
        assert tables(etc).look(entry_id).state is EntryState.OFF
        assert tables(etc).writes(entry_id, EntryState.OFF) == []
        (again,) = tables(etc).writes(entry_id, EntryState.ON)
        assert again == write.undone
        carry_out(write.undone)
        assert path.read_bytes() == before
    for state in (EntryState.LATER, EntryState.OFF_FOR_GOOD):
        with pytest.raises(Refused):
            tables(etc).writes(ids(etc)[0], state)


def test_what_is_switched_off_is_listed_as_that(etc):
    """It is not gone, and starts nothing: cron takes the line for a remark."""
    entry_id = ids(etc)[0]
    (write,) = tables(etc).writes(entry_id, EntryState.OFF)
    carry_out(write)
    (looked,) = [every_table(etc.parent)]
    recorded = {line.entry: line for line in lines_of([looked]) if hasattr(line, "entry")}
    assert recorded[entry_id].off.code == ReasonCode.SWITCHED_OFF
    assert recorded[ids(etc)[1]].off is None
    marked = (etc / "cron.d/mooring").read_text().split("\n")
    assert all(line.startswith("#") for line in marked if "check" in line)


def test_a_table_that_others_could_write_is_left_alone(etc):
    entry_id, path = ids(etc)[0], etc / "cron.d/mooring"
    path.chmod(0o660)
    assert tables(etc).look(entry_id).state is None
    with pytest.raises(Refused):
        tables(etc).writes(entry_id, EntryState.OFF)
    path.chmod(0o640)
    assert TableLines(etc, os.geteuid() + 1).look(entry_id).state is None
    path.rename(etc / "elsewhere")
    path.symlink_to(etc / "elsewhere")
    assert tables(etc).look(entry_id).cannot.code is ReasonCode.LINE_NOT_THERE
    path.unlink()
    path.write_bytes(b"@reboot root /opt/\xff\n")
    assert tables(etc).look(entry_id).state is None


def changed(write: FileWrite, **how) -> FileWrite:
    after = write.after
    assert isinstance(after, File)
    text = how.get("text", lambda text: text)(after.text)
    return FileWrite(
        how.get("path", write.path), write.before, File(text, how.get("mode", after.mode))
    )


@pytest.mark.parametrize(
    "how",
    [
        {"text": lambda text: f"{text}\n@reboot root /tmp/mine"},
        {"text": lambda text: text.replace("check", "chuck")},
        {"text": lambda text: text.replace("17 *", f"{OFF_MARK}17 *")},
        {"text": lambda text: text.replace("SHELL", f"{OFF_MARK}SHELL")},
        {"text": lambda text: text.replace(OFF_MARK, f"{OFF_MARK}\n")},
        {"text": lambda text: text.replace(OFF_MARK, OFF_MARK * 2)},
        {"text": lambda _text: ""},
        {"mode": 0o666},
        {"mode": 0o755},
        {"path": "/etc/shadow"},
        {"path": "{etc}/cron.d/../shadow"},
        {"path": "{etc}/cron.d/with.dot"},
        {"path": "{etc}/cron.daily/mooring"},
    ],
)
def test_a_journal_can_have_root_do_nothing_else_to_a_table(etc, how):
    (write,) = tables(etc).writes(ids(etc)[0], EntryState.OFF)
    assert permitted(etc).permit([write])
    if "path" in how:
        how = {"path": how["path"].format(etc=etc)}
    for forged in (changed(write, **how), changed(write, **how).undone):
        assert not permitted(etc).permit([forged])
    users_own = replace(permitted(etc), etc=None)
    assert not users_own.permit([write])
    content = content_of(Path(write.path))
    for other in (FileWrite(write.path, content, Link("/etc/shadow")),):
        assert not permitted(etc).permit([other])


@given(st.lists(st.sampled_from([*LINES, "# x", "", "@reboot", f"{OFF_MARK}{LINES[0]}", "\x0b"])))
def test_marking_and_unmarking_loses_nothing(tmp_path_factory, lines):
    etc = tmp_path_factory.mktemp("pc") / "etc"
    (etc / "cron.d").mkdir(parents=True)
    path = etc / "cron.d/mooring"
    path.write_bytes("\n".join(lines).encode())
    path.chmod(0o644)
    for entry_id in ids(etc):
        if tables(etc).look(entry_id).state is None:
            continue
        before = path.read_bytes()
        for state in (EntryState.OFF, EntryState.ON):
            writes = tables(etc).writes(entry_id, state)
            assert permitted(etc).permit(writes)
            for write in writes:
                carry_out(write)
            assert tables(etc).look(entry_id).state is state
            for write in writes:
                carry_out(write.undone)
            assert path.read_bytes() == before


def test_a_users_own_table_stays_for_a_person(etc, monkeypatch):
    """Its file is cron's, with an owner and rights of its own."""
    control = ControlOfThisPc(Folders(etc, (), etc=etc, administrators=etc, state=etc))
    own = said_in("@reboot /opt/mooring/mine", "", "bench")
    monkeypatch.setattr("plucky_ledger.control.by_hand.start_lines", lambda: {own.entry_id: own})
    looked: Switchable = control.look([own.entry_id])[own.entry_id]
    assert looked.possible == ()
    assert looked.cannot.code is ReasonCode.LINE_OF_OWN_TABLE
