"""Scripts of init systems: switched by their links, put back, and nothing else is written there."""

import os

import pytest

from plucky_ledger.control.init_scripts import InitScripts
from plucky_ledger.control.permitted_writes import PermittedWrites
from plucky_ledger.control.scope import is_name_of_an_entry
from plucky_ledger.control.writes import NOTHING, File, FileWrite, Folder, Link, carry_out
from plucky_ledger.core.entries.kinds import Switcher, is_users_own, switched_by
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import Refused
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.init_systems.running import InitSystem, init_scripts
from tests.made_up_pcs.init_systems import made_up_pc, write

ROPE, BUOY = "init:rope-sync", "init:buoy-light"


def settings(root):
    found = {}
    for path in root.rglob("*"):
        link = path.is_symlink()
        found[path] = os.readlink(path) if link else path.read_bytes() if path.is_file() else None
    return found


def is_on(root, system, name):
    return {one.name: one.on for one in init_scripts(system, root)}[name]


@pytest.mark.parametrize("system", InitSystem)
def test_a_script_is_switched_off_and_on_and_put_back(tmp_path, system):
    made_up_pc(tmp_path, system)
    at_first = settings(tmp_path)
    scripts, permitted = InitScripts(tmp_path), permitted_below(tmp_path)
    for entry_id, first, then in (
        (ROPE, EntryState.ON, EntryState.OFF),
        (BUOY, EntryState.OFF, EntryState.ON),
    ):
        assert is_name_of_an_entry(entry_id)
        assert switched_by(entry_id) is Switcher.INIT_SCRIPTS
        assert not is_users_own(entry_id)
        looked = scripts.look(entry_id)
        assert (looked.state, looked.administrators) == (first, True)
        assert scripts.writes(entry_id, first) == []
        writes = scripts.writes(entry_id, then)
        assert permitted.permit(writes)
        assert permitted.permit([one.undone for one in writes])
        for one in writes:
            carry_out(one)
        assert scripts.look(entry_id).state is then
        assert is_on(tmp_path, system, entry_id.partition(":")[2]) is (then is EntryState.ON)
        for one in reversed(writes):
            carry_out(one.undone)
        assert settings(tmp_path) == at_first
    with pytest.raises(Refused):
        scripts.writes(ROPE, EntryState.LATER)
    with pytest.raises(Refused):
        scripts.writes("init:not-there", EntryState.OFF)
    assert scripts.look("init:not-there").state is None


def test_links_are_named_as_the_own_tool_names_them(tmp_path):
    made_up_pc(tmp_path, InitSystem.SYSVINIT)
    for one in InitScripts(tmp_path).writes(ROPE, EntryState.OFF):
        carry_out(one)
    for level in "2345":
        folder = tmp_path / f"etc/rc{level}.d"
        assert {path.name for path in folder.iterdir()} == {"K02rope-sync", "K03buoy-light"}


def test_what_the_order_does_not_know_is_switched_on_by_hand(tmp_path):
    """It would not be started, whatever its links say."""
    made_up_pc(tmp_path, InitSystem.SYSVINIT)
    write(tmp_path / "etc/init.d/.depend.start", "TARGETS = rope-sync\nINTERACTIVE =\n")
    looked = InitScripts(tmp_path).look(BUOY)
    assert looked.possible == ()
    assert looked.cannot is not None
    assert looked.cannot.code is ReasonCode.SCRIPT_NOT_ORDERED
    assert InitScripts(tmp_path).look(ROPE).possible


def test_what_others_have_started_is_told(tmp_path):
    made_up_pc(tmp_path, InitSystem.OPENRC)
    rope = tmp_path / "etc/init.d/rope-sync"
    rope.write_text(rope.read_text().replace("$remote_fs hull", "$remote_fs buoy"))
    (reason,) = InitScripts(tmp_path).look(BUOY).started_by
    assert (reason.code, reason.facts["names"]) == (ReasonCode.WANTED_BY, "rope-sync")


def permitted_below(root):
    return PermittedWrites.of_the_system(Folders(root / "home/.config", (), etc=root / "etc"))


@pytest.mark.parametrize(
    ("path", "content"),
    [
        ("etc/rc2.d/S01rope-sync", Link("/tmp/mine")),
        ("etc/rc2.d/S01rope-sync", Link("../init.d/buoy-light")),
        ("etc/rc2.d/S01rope-sync", Link("../../tmp/rope-sync")),
        ("etc/rc2.d/S01rope-sync", File("#!/bin/sh\n", 0o755)),
        ("etc/rc2.d/S01rope-sync", Folder()),
        ("etc/rc0.d/S01rope-sync", Link("../init.d/rope-sync")),
        ("etc/rc2.d/rope-sync", Link("../init.d/rope-sync")),
        ("etc/rc2.d/S01../x", Link("../init.d/../x")),
        ("etc/init.d/rope-sync", File("#!/bin/sh\n", 0o755)),
        ("etc/init.d/.depend.start", File("TARGETS =\n")),
        ("etc/inittab", File("x::sysinit:/tmp/mine\n")),
        ("etc/runlevels/default/rope-sync", Link("/tmp/rope-sync")),
        ("etc/runlevels/shutdown/rope-sync", Link("/etc/init.d/rope-sync")),
        ("etc/sv/rope-sync/down", File("x")),
        ("etc/sv/rope-sync/run", File("")),
        ("etc/sv/rope-sync/down", File("", 0o755)),
        ("etc/runit/runsvdir/default/rope-sync", Link("/tmp/rope-sync")),
        ("etc/runit/runsvdir/default/rope-sync", Link("/etc/sv/other")),
        ("rc2.d/S01rope-sync", Link("../init.d/rope-sync")),
    ],
)
def test_a_journal_can_have_nothing_else_written_there(tmp_path, path, content):
    permitted = permitted_below(tmp_path)
    path = str(tmp_path / path)
    assert not permitted.permit([FileWrite(path, NOTHING, content)])
    assert not permitted.permit([FileWrite(path, content, NOTHING)])


def test_a_user_may_write_none_of_it(tmp_path):
    own = PermittedWrites.of_a_user(Folders(tmp_path / "home/.config", (), etc=tmp_path / "etc"))
    link = Link("../init.d/rope-sync")
    assert not own.permit([FileWrite(str(tmp_path / "etc/rc2.d/S01rope-sync"), link, NOTHING)])
