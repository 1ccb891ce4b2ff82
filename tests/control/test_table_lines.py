"""Lines of tables of timed jobs: switched by a mark alone, and nothing else is written."""

import os
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.services.start_files import lines_of
from plucky_ledger.control.control_of_this_pc import ControlOfThisPc
from plucky_ledger.control.permitted_writes import PermittedWrites
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope, is_name_of_an_entry
from plucky_ledger.control.table_lines import TableLines
from plucky_ledger.control.writes import (
    NOTHING,
    ChangedSince,
    File,
    FileWrite,
    Link,
    carry_out,
    content_of,
)
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import EntryRequest, Switchable
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import Refused, Trouble
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.start_files.tables import OFF_MARK, every_table, said_in
from plucky_ledger.linux.users import user_name

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
    return TableLines.of_the_system(etc, os.geteuid())


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
    assert TableLines.of_the_system(etc, os.geteuid() + 1).look(entry_id).state is None
    path.rename(etc / "elsewhere")
    path.symlink_to(etc / "elsewhere")
    assert tables(etc).look(entry_id).cannot.code is ReasonCode.LINE_NOT_THERE
    path.unlink()
    path.write_bytes(b"@reboot root /opt/\xff\n")
    assert tables(etc).look(entry_id).state is None


def test_a_table_that_became_another_accounts_is_not_made_roots_again(etc):
    """What others wrote into it would be written anew, as root's."""
    (write,) = tables(etc).writes(ids(etc)[0], EntryState.OFF)
    carry_out(write)
    path = etc / "cron.d/mooring"
    with path.open("a") as file:
        file.write("\n# more")
    carry_out(write.undone)
    assert path.read_bytes() == TABLE.encode() + b"\n# more"
    carry_out(write)
    path.chmod(0o666)
    with pytest.raises(ChangedSince):
        carry_out(write.undone)
    assert OFF_MARK in path.read_text()


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


CRONTAB = """#!/bin/sh
kept="{kept}"
case "$1" in
  -l) [ -f "$kept" ] && exec cat "$kept"; echo "no crontab for $USER" >&2; exit 1;;
  -) grep -q refused "$0.refuses" 2>/dev/null && {{ echo "not allowed" >&2; exit 1; }}
     cat > "$kept.new" && mv "$kept.new" "$kept";;
esac
"""
OWN = (
    "# mine\n@reboot /opt/mooring/mine 100\\% # each\n@reboot once\n5 5 * * * /opt/mooring/daily\n"
)


@pytest.fixture
def own_table(tmp_path, monkeypatch):
    """The table of who runs this, behind a stand-in of the daemon's program."""
    program, kept = tmp_path / "bin/crontab", tmp_path / "spool"
    program.parent.mkdir()
    program.write_text(CRONTAB.format(kept=kept))
    program.chmod(0o755)
    monkeypatch.setenv("PATH", f"{program.parent}:{os.environ['PATH']}")
    kept.write_text(OWN)
    return kept


def of_this_user(tmp_path: Path) -> Scope:
    return Scope("user", Folders(tmp_path / "config", (), state=tmp_path / "state"))


def own_ids() -> list[str]:
    lines = (said_in(line, "", user_name()) for line in OWN.split("\n"))
    return [line.entry_id for line in lines if line is not None]


def request(*entry_ids: str) -> SwitchRequest:
    wishes = tuple(EntryRequest(entry_id, "Mine", EntryState.OFF) for entry_id in entry_ids)
    return SwitchRequest("key", "0417", "bench", wishes)


def test_lines_of_ones_own_table_are_switched_by_its_program(own_table, tmp_path):
    scope = of_this_user(tmp_path)
    assert len(own_ids()) == 2
    assert [one.state for one in scope.look(own_ids())] == [EntryState.ON] * 2
    assert not any(one.administrators for one in scope.look(own_ids()))
    assert [one.after for one in scope.switch(request(*own_ids()))] == [EntryState.OFF] * 2
    marked = own_table.read_text().split("\n")
    assert [line.removeprefix(OFF_MARK) for line in marked] == OWN.split("\n")
    assert all(line.startswith("#") for line in marked if "reboot" in line)
    assert len(scope.put_back(RevertSelection())) == 2
    assert own_table.read_text() == OWN


def test_each_line_is_put_back_by_itself_whatever_else_was_edited(own_table, tmp_path):
    scope = of_this_user(tmp_path)
    scope.switch(request(*own_ids()))
    added = "7 7 * * * /opt/mooring/weekly\n"
    own_table.write_text(own_table.read_text() + added)
    first = RevertSelection(entries=(own_ids()[0],))
    assert [one.by_others for one in scope.put_back(first)] == [""]
    once = f"{OFF_MARK}@reboot once"
    assert own_table.read_text() == OWN.replace("@reboot once", once) + added
    own_table.write_text(own_table.read_text().replace(once, "# I did this by hand"))
    assert [one.by_others for one in scope.put_back(RevertSelection())] == ["crontab"]
    assert own_table.read_text() == OWN.replace("@reboot once", "# I did this by hand") + added


def test_who_may_not_have_a_table_changes_nothing(own_table, tmp_path):
    scope = of_this_user(tmp_path)
    (own_table.parent / "bin/crontab.refuses").write_text("refused")
    with pytest.raises(Trouble):
        scope.switch(request(own_ids()[0]))
    assert own_table.read_text() == OWN
    assert scope.changes() == []
    own_table.unlink()
    assert [one.state for one in scope.look(own_ids())] == [None, None]


def test_a_journal_can_have_an_own_table_marked_and_nothing_else(own_table, tmp_path):
    (write,) = TableLines.of_a_user().writes(own_ids()[0], EntryState.OFF)
    users = PermittedWrites.of_a_user(Folders(tmp_path / "config", ()))
    assert users.permit([write, write.undone])
    for how in ({"text": lambda text: f"{text}@reboot /tmp/mine\n"}, {"text": lambda _: ""}):
        assert not users.permit([changed(write, **how)])
    assert not users.permit([FileWrite(write.path, NOTHING, write.after)])
    assert not PermittedWrites.of_the_system(Folders(tmp_path, ())).permit([write])


def test_a_table_of_another_user_stays_for_a_person(etc, monkeypatch):
    """Its file is cron's, with an owner and rights of its own."""
    control = ControlOfThisPc(Folders(etc, (), etc=etc, administrators=etc, state=etc))
    theirs = said_in("@reboot /opt/mooring/mine", "", "bench")
    monkeypatch.setattr(
        "plucky_ledger.control.by_hand.start_lines", lambda: {theirs.entry_id: theirs}
    )
    looked: Switchable = control.look([theirs.entry_id])[theirs.entry_id]
    assert looked.possible == ()
    assert looked.cannot.code is ReasonCode.LINE_OF_OWN_TABLE
