"""What starts with other people is switched as them, by the administrator, and put back."""

import os
import pwd
from types import SimpleNamespace

import pytest

from plucky_ledger.control import administrator, control_of_this_pc, other_people
from plucky_ledger.control.control_of_this_pc import ControlOfThisPc
from plucky_ledger.control.journal_of_changes import JournalOfChanges
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope
from plucky_ledger.control.user_scope import UserScope
from plucky_ledger.core.entries.kinds import id_of_another
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import EntryRequest
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import acting_as
from tests.helpers.users import SOMEBODY, needs_administrator

pytestmark = needs_administrator
BELL, WARDEN = "bell.desktop", "warden"
THEIRS = id_of_another(WARDEN, BELL)
OFF = EntryState.OFF


class Silent:
    """A service manager that has nothing to be told."""

    owner = "system"

    def reload(self):
        pass


@pytest.fixture
def system(tmp_path, users_home, monkeypatch):
    """The system's scope, on a PC where warden signs in as well, with a bell."""
    accounts = {WARDEN: SOMEBODY, "root": 0, "printer": 13, "nobody": 65534}

    def known(name):
        return SimpleNamespace(pw_uid=accounts[name])

    monkeypatch.setattr(other_people.pwd, "getpwnam", known)
    folders = Folders(
        tmp_path / "c", (), tmp_path / "units", tmp_path / "var/p", etc=tmp_path / "etc"
    )
    monkeypatch.setattr(control_of_this_pc.Folders, "of_this_user", lambda: folders)
    with acting_as(SOMEBODY):
        (users_home / ".config/autostart").mkdir(parents=True)
        bell(users_home).write_text("[Desktop Entry]\nType=Application\nExec=/bin/true\n")
    return Scope("system", folders, Silent())


def bell(home):
    return home / f".config/autostart/{BELL}"


def order(*ids, key="key"):
    return SwitchRequest(key, "0001", "bench", tuple(EntryRequest(i, i, OFF) for i in ids))


def test_it_is_switched_as_them_noted_and_put_back(system, users_home):
    at_first = bell(users_home).read_bytes()
    (looked,) = other_people.look([THEIRS])
    assert (looked.entry_id, looked.state, looked.administrators) == (THEIRS, EntryState.ON, True)
    (done,) = other_people.switch(system, order(THEIRS))
    assert (done.entry_id, done.before, done.after) == (THEIRS, EntryState.ON, OFF)
    assert "Hidden=true" in bell(users_home).read_text()
    assert {path.lstat().st_uid for path in users_home.rglob("*")} == {SOMEBODY}
    (change,) = system.changes()
    assert [(entry.entry, entry.writes) for entry in change.entries] == [(THEIRS, ())]
    assert [one.entry for one in other_people.put_back(system, RevertSelection())] == [THEIRS]
    assert bell(users_home).read_bytes() == at_first
    assert other_people.put_back(system, RevertSelection()) == []


def test_what_they_switched_themselves_stays_theirs(system, users_home):
    """The administrator puts back what was noted, and nothing else of theirs."""
    UserScope(SOMEBODY).switch(order(BELL, key="own"))
    assert other_people.put_back(system, RevertSelection()) == []
    assert "Hidden=true" in bell(users_home).read_text()


@pytest.mark.parametrize("person", ["root", "printer", "nobody", "gone", "../warden", ""])
def test_nobody_but_people_can_be_meant(system, person, tmp_path):
    wished = f"person:{person}:{BELL}"
    with pytest.raises(Trouble):
        other_people.switch(system, order(wished))
    assert all(entry.stage == "put_back" for change in system.changes() for entry in change.entries)


@pytest.mark.parametrize("inner", ["../../etc/passwd", "file:.profile:1", "x", "user:../x.service"])
def test_what_is_no_entry_of_theirs_is_refused(system, users_home, inner):
    at_first = {path: path.read_bytes() for path in users_home.rglob("*") if path.is_file()}
    with pytest.raises(Trouble):
        other_people.switch(system, order(THEIRS, id_of_another(WARDEN, inner)))
    for path, data in at_first.items():
        assert path.read_bytes() == data


def test_all_or_none_where_one_of_them_cannot_be(system, users_home):
    """The one before is put back, in whoever's journal it is."""
    at_first = bell(users_home).read_bytes()
    with pytest.raises(Trouble):
        other_people.switch(system, order(THEIRS, id_of_another("gone", BELL)))
    assert bell(users_home).read_bytes() == at_first


def test_cut_off_between_theirs_and_the_note_it_is_put_back(system, users_home, monkeypatch):
    at_first, here, kept = bell(users_home).read_bytes(), os.getpid(), []
    keep = JournalOfChanges.keep

    class PowerCut(BaseException):
        pass

    def keep_once(journal, path, change):
        if os.getpid() == here and kept:
            raise PowerCut
        kept.append(path)
        keep(journal, path, change)

    monkeypatch.setattr(JournalOfChanges, "keep", keep_once)
    with pytest.raises(PowerCut):
        other_people.switch(system, order(THEIRS))
    monkeypatch.setattr(JournalOfChanges, "keep", keep)
    assert "Hidden=true" in bell(users_home).read_text()
    other_people.put_back(system, RevertSelection(cut_off=True))
    assert bell(users_home).read_bytes() == at_first


def test_an_ordinary_user_sees_no_state_and_may_wish(monkeypatch):
    monkeypatch.setattr(other_people, "is_administrator", lambda: False)
    (looked,) = other_people.look([THEIRS])
    assert (looked.state, looked.possible) == (None, (EntryState.ON, OFF))


def test_the_control_of_a_pc_goes_by_it(system, users_home, monkeypatch):
    monkeypatch.setattr(administrator, "Scope", lambda *_: system)
    monkeypatch.delenv("SUDO_UID", raising=False)
    control = ControlOfThisPc()
    assert control.look([THEIRS])[THEIRS].state is EntryState.ON
    (done,) = control.switch(order(THEIRS))
    assert done.after is OFF
    assert control.changes()[0].entries == (THEIRS,)
    assert THEIRS in {one.entry_id for one in control.put_back(RevertSelection(("key",)))}
    assert "Hidden" not in bell(users_home).read_text()


def test_a_person_without_a_home_is_told(monkeypatch):
    monkeypatch.setattr(other_people.pwd, "getpwnam", pwd.getpwnam)
    with pytest.raises(Trouble) as told:
        other_people._scope_of("nobody-there")
    assert told.value.code is TroubleCode.USER_WITHOUT_HOME
