"""Programs that a bus starts: switched by a file that starts nothing; nothing else is written."""

import os

import pytest

from plucky_ledger.control.bus_files import BusFiles
from plucky_ledger.control.permitted_writes import PermittedWrites
from plucky_ledger.control.scope import is_name_of_an_entry
from plucky_ledger.control.writes import NOTHING, File, FileWrite, Folder, Link, carry_out
from plucky_ledger.core.entries.kinds import Switcher, is_users_own, switched_by
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.values.trouble import Refused
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.start_files.bus_files import delivered

NAME = "org.example.Tide"
TIDE = f"[D-BUS Service]\nName={NAME}\nExec=/opt/tide/called --bus\n"
BY_A_UNIT = "[D-BUS Service]\nName=org.example.Buoy\nExec=/bin/false\nSystemdService=buoy.service\n"
MASK = f"[D-BUS Service]\nName={NAME}\nExec=/bin/false\n"


@pytest.fixture
def root(tmp_path):
    for kind in ("services", "system-services"):
        folder = tmp_path / "usr/share/dbus-1" / kind
        folder.mkdir(parents=True)
        (folder / f"{NAME}.service").write_text(TIDE)
        (folder / "org.example.Buoy.service").write_text(BY_A_UNIT)
    return tmp_path


def places(root):
    folders = Folders(root / "home/.config", (), system_bus_files=root / "usr/local/share/dbus-1/x")
    return {
        True: (folders.system_bus_files, PermittedWrites.of_the_system(folders)),
        False: (folders.own_bus_files, PermittedWrites.of_a_user(folders)),
    }


@pytest.mark.parametrize("of_system", [True, False])
def test_a_program_of_a_bus_is_switched_off_and_on(root, of_system):
    masks, permitted = places(root)[of_system]
    files = BusFiles(masks, of_system, root)
    (entry_id,) = delivered(root, of_system)
    assert is_name_of_an_entry(entry_id)
    assert switched_by(entry_id) is Switcher.BUS_FILES
    assert is_users_own(entry_id) is not of_system
    assert files.look(entry_id).state is EntryState.ON
    assert files.look(entry_id).administrators is of_system
    writes = files.writes(entry_id, EntryState.OFF)
    assert permitted.permit(writes)
    assert permitted.permit([write.undone for write in writes])
    for write in writes:
        carry_out(write)
    assert (masks / f"{NAME}.service").read_text() == MASK
    assert files.look(entry_id).state is EntryState.OFF
    (on,) = files.writes(entry_id, EntryState.ON)
    assert permitted.permit([on])
    for write in reversed(writes):
        carry_out(write.undone)
    assert not os.path.lexists(root / "usr/local") or not of_system
    with pytest.raises(Refused):
        files.writes(entry_id, EntryState.LATER)


def test_what_somebody_wrote_there_is_not_written_over(root):
    masks, permitted = places(root)[False]
    (entry_id,) = delivered(root, of_system=False)
    masks.mkdir(parents=True)
    own = masks / f"{NAME}.service"
    own.write_text(TIDE.replace("called", "mine"))
    files = BusFiles(masks, False, root)
    assert files.look(entry_id).state is None
    with pytest.raises(Refused):
        files.writes(entry_id, EntryState.OFF)
    before = File(own.read_text(), 0o644)
    assert not permitted.permit([FileWrite(str(own), before, File(MASK))])


@pytest.mark.parametrize("name", ["a", "org.exa mple", "org..x", "org.x/../y", ""])
def test_a_name_that_is_none_is_not_written(root, name):
    path = root / f"usr/share/dbus-1/services/{NAME}.service"
    path.write_text(TIDE.replace(NAME, name))
    files = BusFiles(places(root)[False][0], False, root)
    for entry_id in delivered(root, of_system=False):
        with pytest.raises(Refused):
            files.writes(entry_id, EntryState.OFF)


@pytest.mark.parametrize("of_system", [True, False])
def test_a_journal_can_have_nothing_else_written_there(root, of_system):
    masks, permitted = places(root)[of_system]
    path = str(masks / f"{NAME}.service")
    assert permitted.permit([FileWrite(path, NOTHING, File(MASK))])
    for content in (
        File(TIDE),
        File(MASK.replace("/bin/false", "/bin/false;/tmp/mine")),
        File(f"{MASK}User=root\n"),
        File(f"{MASK}\n[D-BUS Service]\nExec=/tmp/mine\n"),
        File("W0QtQlVTIFNlcnZpY2Vd", encoded=True),
        Link("/dev/null"),
        Link("/tmp/mine.service"),
        Folder(),
    ):
        assert not permitted.permit([FileWrite(path, NOTHING, content)]), content
    for elsewhere in (masks / "x.conf", masks / "below/x.service", masks.parent / "x.service"):
        assert not permitted.permit([FileWrite(str(elsewhere), NOTHING, File(MASK))]), elsewhere
