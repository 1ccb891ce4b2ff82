"""Switching sign-in programs, whatever comes in between: what is put back is as it was."""

import errno
import shutil
import tempfile
from collections import Counter
from contextlib import suppress
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from plucky_ledger.control import switching, writes
from plucky_ledger.control.desktop_entries import SignInPrograms
from plucky_ledger.control.install_section import install_of
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope
from plucky_ledger.control.service_manager import ManagedUnit
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import EntryRequest
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.desktop_entries import read_desktop_entry, with_values
from plucky_ledger.linux.folders import Folders

VENDORS = {
    "foghorn.desktop": "[Desktop Entry]\nType=Application\nName=Foghorn\nExec=/bin/true %U\n",
    "lantern.desktop": "# vendor\n[Desktop Entry]\nType=Application\n"
    'Exec=/bin/sh -c "echo \\\\$HOME"\n'
    "OnlyShowIn=TicketDesk;SeaDesk;\n[Desktop Action x]\nExec=/bin/false\n",
}
OWN = {"windlass.desktop": "[Desktop Entry]\nType=Application\nExec=/bin/true\nHidden=true"}
STATES = (EntryState.ON, EntryState.OFF, EntryState.LATER, EntryState.OFF_HERE)


class NoManager:
    """There is no service manager to be told."""

    owner = "user"

    def reload(self) -> None:
        pass


class PowerCut(BaseException):
    """Everything ends at once."""


@pytest.fixture(autouse=True)
def desktop(monkeypatch):
    monkeypatch.setenv("XDG_CURRENT_DESKTOP", "TicketDesk")


def tree(folder: Path) -> dict[str, object]:
    """All that is below a folder, and what it holds."""
    return {
        str(path.relative_to(folder)): path.read_bytes() if path.is_file() else None
        for path in folder.rglob("*")
    }


class Switching(RuleBasedStateMachine):
    """A user's sign-in programs: switched, put back, cut off, and changed by others."""

    @initialize()
    def take_in(self):
        self.root = Path(tempfile.mkdtemp())
        self.vendors, self.home = self.root / "vendors", self.root / "home"
        for folder, files in ((self.vendors, VENDORS), (self.home, OWN)):
            (folder / "autostart").mkdir(parents=True)
            for name, text in files.items():
                (folder / "autostart" / name).write_text(text)
        folders = Folders(self.home, (self.vendors,), state=self.root / "state")
        self.place = Scope("user", folders, NoManager())
        self.at_first = tree(self.home)
        self.delivered = tree(self.vendors)
        self.keys = 0

    def teardown(self):
        if hasattr(self, "root"):
            self.place.put_back(RevertSelection())
            assert tree(self.home) == self.at_first
            shutil.rmtree(self.root)

    @invariant()
    def a_vendors_file_is_never_written(self):
        if hasattr(self, "root"):
            assert tree(self.vendors) == self.delivered

    def order(self, wishes):
        self.keys += 1
        wanted = tuple(EntryRequest(name, name, state) for name, state in wishes.items())
        return SwitchRequest(f"key {self.keys}", "0001", "bench", wanted)

    @rule(
        wishes=st.dictionaries(
            st.sampled_from([*VENDORS, *OWN]), st.sampled_from(STATES), min_size=1
        )
    )
    def switch(self, wishes):
        done = self.place.switch(self.order(wishes))
        assert {one.entry_id: one.after for one in done} == wishes

    @rule(
        wishes=st.dictionaries(
            st.sampled_from([*VENDORS, *OWN]), st.sampled_from(STATES), min_size=1
        ),
        at=st.integers(0, 4),
    )
    def cut_off(self, wishes, at):
        before, left = tree(self.home), [at]
        real = writes.carry_out

        def dying(write):
            if left[0] == 0:
                raise PowerCut
            left[0] -= 1
            real(write)

        with pytest.MonkeyPatch.context() as patched:
            patched.setattr(switching, "carry_out", dying)
            try:
                self.place.switch(self.order(wishes))
            except PowerCut:
                cut = True
            else:
                cut = False
        if cut:
            assert any(change.cut_off for change in self.place.changes())
            self.place.put_back(RevertSelection(cut_off=True))
            assert tree(self.home) == before

    @rule(number=st.integers(1, 12))
    def put_back_one(self, number):
        before = tree(self.home)
        with suppress(Refused):
            self.place.put_back(RevertSelection((f"key {number}",)))
            return
        assert tree(self.home) == before

    @rule()
    def put_everything_back(self):
        self.place.put_back(RevertSelection())
        assert tree(self.home) == self.at_first

    @rule(name=st.sampled_from(["harbour.desktop", "notes.txt"]), text=st.text("ab=\n", max_size=9))
    def others_write(self, name, text):
        """Beside what we changed: that stays."""
        (self.home / "autostart" / name).write_text(text)
        self.at_first[f"autostart/{name}"] = text.encode()


TestSwitching = Switching.TestCase
TestSwitching.settings = settings(max_examples=25, stateful_step_count=12, deadline=None)


def test_a_folder_that_others_make_anew_is_theirs_even_while_it_is_empty(tmp_path):
    """We made one where there was none, and removed it: who makes it again keeps it."""
    vendors, home = tmp_path / "vendors", tmp_path / "home"
    (vendors / "autostart").mkdir(parents=True)
    home.mkdir()
    for name, text in VENDORS.items():
        (vendors / "autostart" / name).write_text(text)
    place = Scope("user", Folders(home, (vendors,), state=tmp_path / "state"), NoManager())
    name = next(iter(VENDORS))

    def off_and_back(key):
        place.switch(
            SwitchRequest(key, "0001", "bench", (EntryRequest(name, name, EntryState.OFF),))
        )
        assert (home / "autostart").is_dir()
        place.put_back(RevertSelection())

    off_and_back("first")
    assert tree(home) == {}
    (home / "autostart").mkdir()
    off_and_back("second")
    assert tree(home) == {"autostart": None}


def test_what_others_wrote_over_ours_is_left_and_named(tmp_path):
    machine = Switching()
    machine.take_in()
    machine.switch({"foghorn.desktop": EntryState.OFF})
    own = machine.home / "autostart/foghorn.desktop"
    own.write_text("[Desktop Entry]\nType=Application\nExec=/bin/others\n")
    (undone,) = machine.place.put_back(RevertSelection())
    assert undone.by_others == str(own)
    assert "others" in own.read_text()
    shutil.rmtree(machine.root)


def test_where_the_journal_has_no_room_the_pc_is_put_back_all_the_same(monkeypatch):
    """Undoing what is undone already changes nothing: it is tried again when there is room."""
    machine = Switching()
    machine.take_in()
    machine.switch({"foghorn.desktop": EntryState.OFF, "lantern.desktop": EntryState.LATER})

    def full(*_):
        raise OSError(errno.ENOSPC, "No space left on device", "/var/changes")

    with monkeypatch.context() as patched:
        patched.setattr(machine.place.journal, "keep", full)
        with pytest.raises(Trouble) as caught:
            machine.place.put_back(RevertSelection())
        assert caught.value.code is TroubleCode.NOT_PUT_BACK
        assert tree(machine.home) == machine.at_first
    assert {one.entry for one in machine.place.put_back(RevertSelection())} == {
        "foghorn.desktop",
        "lantern.desktop",
    }
    assert tree(machine.home) == machine.at_first
    shutil.rmtree(machine.root)


def test_an_entry_that_cannot_be_written_keeps_no_other_from_being_put_back(monkeypatch):
    machine = Switching()
    machine.take_in()
    machine.switch({"foghorn.desktop": EntryState.OFF, "lantern.desktop": EntryState.OFF})
    real = switching.carry_out

    def stubborn(write):
        if write.path.endswith("lantern.desktop"):
            raise OSError(errno.EROFS, "Read-only file system", write.path)
        real(write)

    with monkeypatch.context() as patched:
        patched.setattr(switching, "carry_out", stubborn)
        with pytest.raises(Trouble):
            machine.place.put_back(RevertSelection())
    assert not (machine.home / "autostart/foghorn.desktop").exists()
    assert [one.entry for one in machine.place.put_back(RevertSelection())] == ["lantern.desktop"]
    assert tree(machine.home) == machine.at_first
    shutil.rmtree(machine.root)


def test_what_was_changed_again_stays_as_it_is_where_that_is_wanted():
    """As at the end of a night shift: everything else is put back, and nothing is refused."""
    machine = Switching()
    machine.take_in()
    machine.switch({"foghorn.desktop": EntryState.OFF, "lantern.desktop": EntryState.OFF})
    machine.switch({"foghorn.desktop": EntryState.LATER})
    with pytest.raises(Refused):
        machine.place.put_back(RevertSelection(("key 1",)))
    undone = machine.place.put_back(RevertSelection(("key 1",)), leave_changed_again=True)
    assert [one.entry for one in undone] == ["lantern.desktop"]
    assert machine.place.look(["foghorn.desktop"])[0].state is EntryState.LATER
    machine.place.put_back(RevertSelection())
    assert tree(machine.home) == machine.at_first
    shutil.rmtree(machine.root)


def test_a_plan_that_does_not_fit_any_more_changes_nothing(tmp_path, monkeypatch):
    """Somebody writes between the plan and the writes."""
    machine = Switching()
    machine.take_in()
    real = switching.carry_out

    def meanwhile(write):
        Path(write.path).write_text("[Desktop Entry]\nType=Application\nExec=/bin/others\n")
        real(write)

    monkeypatch.setattr(switching, "carry_out", meanwhile)
    with pytest.raises(Trouble) as caught:
        machine.switch({"foghorn.desktop": EntryState.OFF})
    assert caught.value.code is TroubleCode.CHANGED_MEANWHILE
    assert not machine.place.changes()
    shutil.rmtree(machine.root)


@given(st.text("Hidden=true[] #\nExecab;", max_size=80), st.sampled_from(["true", None]))
def test_setting_a_value_keeps_everything_else(text, value):
    edited = with_values(f"[Desktop Entry]\n{text}\n", {"Hidden": value})
    groups = edited.split("\n[")
    assert groups[0].count("Hidden=") == (1 if value else 0) or "Hidden" in text
    assert with_values(edited, {"Hidden": value}) == edited
    kept = [line for line in text.splitlines() if line and not line.strip().startswith("Hidden")]
    assert [line for line in kept if line in edited.splitlines()] == kept


def test_a_delayed_entry_runs_its_own_command_after_the_wait(tmp_path):
    (tmp_path / "autostart").mkdir()
    entry = '[Desktop Entry]\nType=Application\nExec="/opt/a b/tool" --name "x\\\\\\\\y" 100%% %U\n'
    (tmp_path / "v").mkdir()
    (tmp_path / "v/tool.desktop").write_text(entry)
    programs = SignInPrograms((tmp_path / "autostart", tmp_path / "v"), ("TicketDesk",))
    for write in programs.writes("tool.desktop", EntryState.LATER, 90):
        writes.carry_out(write)
    delayed = read_desktop_entry(tmp_path / "autostart/tool.desktop")
    own = read_desktop_entry(tmp_path / "v/tool.desktop")
    assert delayed.words[:2] == ["/bin/sh", "-c"]
    assert delayed.words[2] == "sleep 90; exec '/opt/a b/tool' --name 'x\\y' 100%"
    assert own.words == ["/opt/a b/tool", "--name", "x\\y", "100%"]
    for write in programs.writes("tool.desktop", EntryState.ON, 0):
        writes.carry_out(write)
    assert not (tmp_path / "autostart/tool.desktop").exists()


def test_off_is_written_so_that_whatever_starts_it_knows(tmp_path):
    """Some desktops start what others take for switched off."""
    (tmp_path / "v").mkdir()
    vendors = "[Desktop Entry]\nType=Application\nExec=/opt/tool\nX-GNOME-Autostart-enabled=false\n"
    (tmp_path / "v/tool.desktop").write_text(vendors)
    programs = SignInPrograms((tmp_path / "autostart", tmp_path / "v"), ("TicketDesk",))
    assert programs.look("tool.desktop").state is EntryState.OFF
    for write in programs.writes("tool.desktop", EntryState.OFF, 0):
        writes.carry_out(write)
    assert read_desktop_entry(tmp_path / "autostart/tool.desktop").is_true("Hidden")
    assert programs.writes("tool.desktop", EntryState.OFF, 0) == []


def test_what_a_unit_file_says_of_being_installed(tmp_path):
    """Lists go on, are emptied, and name the unit itself."""
    file, drop_in = tmp_path / "a@.service", tmp_path / "50.conf"
    file.write_text(
        "[Unit]\nWantedBy=no.target\n[Service]\nBusName=org.example.Quay\n[Install]\n"
        "WantedBy=multi-user.target \\\n  graphical.target\nAlias=%p-%i.service\nAlso=a.socket\n"
        "# WantedBy=never.target\nRequiredBy=x.target\n"
    )
    drop_in.write_text("[Install]\nRequiredBy=\nUpheldBy=%i.target %H.target\n")
    install = install_of("a@b.service", [file, drop_in])
    assert install.links == (
        "multi-user.target.wants/a@b.service",
        "graphical.target.wants/a@b.service",
        "b.target.upholds/a@b.service",
    )
    assert install.aliases == ("a-b.service",)
    assert (install.also, install.unknown) == (("a.socket",), "%H.target")
    assert install.bus_name == "org.example.Quay"


class CountingManager(NoManager):
    """Knows the services in one folder, and counts how often it is asked about each."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.asked = folder, Counter()

    def search_path(self) -> tuple[Path, ...]:
        return (self.folder,)

    def units(self, names: list[str]) -> dict[str, ManagedUnit]:
        self.asked.update(names)
        return {
            name: ManagedUnit(
                name=name,
                load_state="loaded",
                fragment=str(self.folder / name),
                drop_ins=(),
                file_state="enabled",
                preset="enabled",
                wanted_by=(),
                triggered_by=(),
                needed_by=(),
                bus_name="",
            )
            for name in names
            if (self.folder / name).exists()
        }


def test_the_manager_is_asked_about_each_unit_once_before_and_once_after(tmp_path):
    folders = Folders(tmp_path / "home", (), state=tmp_path / "state")
    names = ("foghorn.service", "windlass.service")
    folders.user_units.mkdir(parents=True)
    for name in names:
        file = folders.user_units / name
        file.write_text("[Service]\nExecStart=/bin/true\n[Install]\nWantedBy=default.target\n")
    manager = CountingManager(folders.user_units)
    place = Scope("user", folders, manager)
    entries = [f"user:{name}" for name in names]
    assert [found.state for found in place.look(entries)] == [EntryState.OFF] * 2
    assert {manager.asked[name] for name in names} == {1}
    wishes = tuple(EntryRequest(entry, entry, EntryState.ON) for entry in entries)
    done = place.switch(SwitchRequest("key", "0001", "bench", wishes))
    assert [(one.before, one.after) for one in done] == [(EntryState.OFF, EntryState.ON)] * 2
    assert {manager.asked[name] for name in names} == {3}
