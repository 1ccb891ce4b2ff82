"""The administrator's process believes what only the administrator could have written."""

import os
import stat
import subprocess
import sys
from pathlib import Path

import msgspec
import pytest
from click.testing import CliRunner

from plucky_ledger.cli.main import main
from plucky_ledger.control import administrator
from plucky_ledger.control import control_of_this_pc as this_pc
from plucky_ledger.control.control_of_this_pc import ControlOfThisPc
from plucky_ledger.control.journal_of_changes import (
    ChangeStage,
    EntryChange,
    JournalOfChanges,
    RecordedChange,
)
from plucky_ledger.control.permitted_writes import LINKS_BELOW, PermittedWrites
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope
from plucky_ledger.control.writes import (
    MOST_RIGHTS,
    NOTHING,
    File,
    FileWrite,
    Folder,
    Link,
    carry_out,
    content_of,
)
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import EntryRequest
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux import administrator as becoming
from plucky_ledger.linux.as_user import as_user
from plucky_ledger.linux.files import make_folder, write_whole
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.start_files.tables import SYSTEM_TABLES
from plucky_ledger.linux.users import acting_as
from tests.helpers.answers import answered
from tests.helpers.trouble import told
from tests.helpers.users import SOMEBODY, needs_administrator

pytestmark = needs_administrator
BELL = "bell.desktop"
UNIT = "[Unit]\nDescription=made up\n"
HOME, ROOTS = Path("/home/bench"), Path("/etc/systemd/system")


class NoManager:
    """There is no service manager to be told."""

    owner = "user"

    def reload(self):
        pass


def made_up(path, after, before=NOTHING, stage=ChangeStage.DONE):
    """A change whose putting back would write ``before`` to a path."""
    entry = EntryChange(
        BELL, "Bell", None, EntryState.OFF, (FileWrite(str(path), before, after),), stage
    )
    return RecordedChange("key", "2026-11-29T09:00:00+00:00", "bench", "0001", (entry,))


def put_down(folder, change, owner=0, mode=0o600, name="000001-2026-11-29.json"):
    """A file of a journal, of whomever."""
    folder.mkdir(parents=True, exist_ok=True)
    data = change if isinstance(change, bytes) else msgspec.json.encode(change)
    (folder / name).write_bytes(data)
    (folder / name).chmod(mode)
    for place in (folder, folder / name):
        os.chown(place, owner, owner)
    return folder / name


@pytest.fixture
def places(tmp_path, monkeypatch):
    folders = Folders(tmp_path / "config", (), tmp_path / "units", tmp_path / "var")
    for module in (administrator, this_pc):
        monkeypatch.setattr(module.Folders, "of_this_user", lambda: folders)
    monkeypatch.setattr("plucky_ledger.control.scope.ServiceManager", lambda *_: NoManager())
    return folders


@pytest.mark.parametrize("asks", [None, SOMEBODY])
def test_a_journal_made_up_by_a_user_makes_root_write_nothing(
    tmp_path, places, users_home, monkeypatch, asks
):
    """As with ``sudo -E``: the environment is the user's, the process the administrator's."""
    victim = tmp_path / "victim"
    victim.write_bytes(b"made by root")
    made = made_up(victim, content_of(victim), File("#!/bin/sh\n", 0o4755))
    state = users_home / ".local/state/plucky-ledger"
    put_down(state / "changes", made, SOMEBODY)
    monkeypatch.setattr(this_pc, "homes", lambda: {SOMEBODY: users_home})
    for name, folder in (("HOME", users_home), ("XDG_STATE_HOME", users_home / ".local/state")):
        monkeypatch.setenv(name, str(folder))
    if asks:
        monkeypatch.setenv("SUDO_UID", str(asks))
    out = CliRunner().invoke(main, ["put-back", "--everything"])
    assert victim.read_bytes() == b"made by root"
    assert victim.stat().st_mode & 0o7000 == 0
    assert "writes where no startup entry lies" in out.output
    listed = CliRunner().invoke(main, ["changes", "--json"])
    assert answered(listed.stdout) == []


def test_environment_of_a_user_names_no_folder_of_root(users_home, tmp_path, monkeypatch):
    monkeypatch.setenv("HOME", str(users_home))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(users_home / "config"))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    folders = Folders.of_this_user()
    assert users_home not in folders.config.parents
    assert folders.state == tmp_path / "state/plucky-ledger"  # nobody else can write there


def test_a_users_own_part_is_put_back_as_the_user(places, users_home, monkeypatch):
    """Every file that is left is theirs, and they could have written it themselves."""
    monkeypatch.setenv("SUDO_UID", str(SOMEBODY))
    with acting_as(SOMEBODY):
        (users_home / ".config/autostart").mkdir(parents=True)
        (users_home / f".config/autostart/{BELL}").write_text(
            "[Desktop Entry]\nType=Application\nExec=/bin/true\n"
        )
    before = {path: path.lstat().st_uid for path in users_home.rglob("*")}
    control = ControlOfThisPc()
    (done,) = control.switch(
        SwitchRequest("key", "0001", "bench", (EntryRequest(BELL, "Bell", EntryState.OFF),))
    )
    assert done.after is EntryState.OFF
    assert {path.lstat().st_uid for path in users_home.rglob("*")} == {SOMEBODY}
    assert [change.entries for change in control.changes()] == [(BELL,)]
    assert [one.entry_id for one in control.put_back(RevertSelection())] == [BELL]
    assert set(before) <= set(users_home.rglob("*"))
    assert "Hidden" not in (users_home / f".config/autostart/{BELL}").read_text()


@pytest.mark.parametrize("wrong", ["owner", "mode", "folder", "link", "pipe"])
def test_the_administrators_journal_counts_where_nobody_else_could_write_it(places, wrong):
    timer = places.system_units / "plucky-ledger-later-horn.timer"
    timer.parent.mkdir()
    timer.write_text(UNIT)
    folder = places.journal_of_the_system
    file = put_down(folder, made_up(timer, content_of(timer)))
    if wrong == "owner":
        os.chown(file, SOMEBODY, SOMEBODY)
    elif wrong == "mode":
        file.chmod(0o666)
    elif wrong == "folder":
        folder.chmod(0o777)
    else:
        moved = file.rename(folder.parent / "elsewhere.json")
        file.symlink_to(moved) if wrong == "link" else os.mkfifo(file)
    place = Scope("system", places, NoManager())
    assert place.changes() == []
    assert [Path(one.path) for one in place.left_out()] == [file]
    place.put_back(RevertSelection())
    assert timer.exists()


OF_A_USER = PermittedWrites.of_a_user(Folders.of({}, HOME))
OF_THE_SYSTEM = PermittedWrites.of_the_system(Folders.of({}, HOME))
UNITS = HOME / ".config/systemd/user"
ENTRY = File("[Desktop Entry]\nType=Application\nExec=/bin/true\n")


@pytest.mark.parametrize(
    ("permitted", "path", "content"),
    [
        (OF_THE_SYSTEM, "/etc/shadow", File(UNIT)),
        (OF_THE_SYSTEM, "/etc/systemd/system/../../shadow", File(UNIT)),
        (OF_THE_SYSTEM, "/etc/systemd/system/a/b/c.service", File(UNIT)),
        (OF_THE_SYSTEM, "/etc/systemd/system/bell.sh", File(UNIT)),
        (OF_THE_SYSTEM, "/etc/systemd/system/bell.service", File("#!/bin/sh\n"[1:])),
        (OF_THE_SYSTEM, "/etc/systemd/system/bell.service", File("[Unit]\0")),
        (OF_THE_SYSTEM, "/etc/systemd/system/bell.service", Link("/home/bench/bell.service")),
        (
            OF_THE_SYSTEM,
            "/etc/systemd/system/x.target.wants/bell.service",
            Link("../../bell.service"),
        ),
        (OF_THE_SYSTEM, "/etc/systemd/system/x.target.wants/deeper/bell.service", Folder()),
        (OF_THE_SYSTEM, f"{HOME}/.config/autostart/{BELL}", ENTRY),
        (OF_THE_SYSTEM, f"{UNITS}/bell.service", File(UNIT)),
        (OF_THE_SYSTEM, "etc/systemd/system/bell.service", File(UNIT)),
        (OF_A_USER, "/etc/systemd/system/bell.service", File(UNIT)),
        (OF_A_USER, f"{HOME}/.profile", File(UNIT)),
        (OF_A_USER, f"{HOME}/.config/autostart/bell.sh", ENTRY),
        (OF_A_USER, f"{HOME}/.config/autostart/{BELL}", Link("/usr/bin/true")),
    ],
)
def test_what_no_level_writes_is_permitted_neither_to_be_made_nor_undone(permitted, path, content):
    assert not permitted.permit([FileWrite(path, NOTHING, content)])
    assert not permitted.permit([FileWrite(path, content, NOTHING)])


@pytest.mark.parametrize(
    ("permitted", "path", "content"),
    [
        (OF_THE_SYSTEM, "/etc/systemd/system/bell.service", Link("/dev/null")),
        (OF_THE_SYSTEM, "/etc/systemd/system/bell.timer", File(UNIT, 0o644)),
        (
            OF_THE_SYSTEM,
            "/etc/systemd/system/bell@x.service.d/50-plucky-ledger-off.conf",
            File(UNIT),
        ),
        (OF_THE_SYSTEM, "/etc/systemd/system/x.target.wants", Folder()),
        (
            OF_THE_SYSTEM,
            "/etc/systemd/system/x.target.wants/bell.service",
            Link("/usr/lib/systemd/system/bell.service"),
        ),
        (OF_THE_SYSTEM, "/etc/systemd/system/x.target.wants/bell.service", Link("../bell.service")),
        (OF_A_USER, f"{UNITS}/default.target.wants/bell.service", Link(f"{UNITS}/bell.service")),
        (OF_A_USER, str(UNITS), Folder()),
        (OF_A_USER, f"{HOME}/.config/autostart/{BELL}", ENTRY),
        (OF_A_USER, f"{HOME}/.config/autostart/{BELL}", Link("../../entries/bell.desktop")),
    ],
)
def test_what_a_level_writes_is_permitted(permitted, path, content):
    assert permitted.permit([FileWrite(path, NOTHING, content), FileWrite(path, content, NOTHING)])


def test_no_right_that_a_unit_file_does_not_need_is_ever_given(tmp_path):
    """Neither by what is read from a journal, nor by what stood there before."""
    file = msgspec.json.decode(b'{"type":"file","text":"[Unit]","mode":4095}', type=File)
    carry_out(FileWrite(str(tmp_path / "a.service"), NOTHING, file))
    assert (tmp_path / "a.service").stat().st_mode & 0o7777 == 0o775
    (tmp_path / "a.service").chmod(0o6777)
    assert content_of(tmp_path / "a.service").mode == 0o775


def test_damaged_files_of_a_journal_keep_nothing_from_being_put_back(places, tmp_path):
    """They are named, set beside, and everything else goes on."""
    timer = places.system_units / "plucky-ledger-later-horn.timer"
    timer.parent.mkdir()
    timer.write_text(UNIT)
    folder = places.journal_of_the_system
    put_down(folder, made_up(timer, content_of(timer)))
    damaged = {
        "000002-a.json": b"\xff\xfe",
        "000003-b.json": b"[" * 200_000,
        "000004-c.json": b"{}",
        "000005-d.json": b" " * ((16 << 20) + 1),
        "000006-e.json": msgspec.json.encode(made_up(timer, File(UNIT))).replace(
            b"[Unit]", b"\xed"
        ),
        "²-f.json": b"",
    }
    for name, data in damaged.items():
        put_down(folder, data, name=name)
    newer = b'{"version":2,"what":"a later program knows"}'
    put_down(folder, newer, name="000007-g.json")
    place = Scope("system", places, NoManager())
    assert len(place.left_out()) == len(damaged) + 1
    assert [entry.entry for entry in place.put_back(RevertSelection())] == [BELL]
    assert not timer.exists()
    (left,) = place.left_out()
    assert left.why.code is ReasonCode.OF_A_NEWER_VERSION
    assert (folder / "000007-g.json").read_bytes() == newer
    beside = sorted(path.name for path in folder.glob("*.unreadable"))
    assert beside == sorted(f"{name}.unreadable" for name in damaged)


@pytest.mark.parametrize("handed_on", [0o077, 0o000, 0o777])
def test_folders_that_both_sides_read_keep_their_mode(tmp_path, handed_on):
    before = os.umask(handed_on)
    try:
        make_folder(tmp_path / "a/b", 0o755)
        make_folder(tmp_path / "private")
        journal = JournalOfChanges(tmp_path / "var/changes", 0, OF_THE_SYSTEM, 0o644)
        with journal.locked():
            journal.begin(made_up(ROOTS / "a.timer", File(UNIT)))
    finally:
        os.umask(before)
    modes = {path: path.stat().st_mode & 0o777 for path in tmp_path.rglob("*") if path.is_dir()}
    private = modes.pop(tmp_path / "private")
    assert private == 0o700
    assert set(modes.values()) == {0o755}


def test_a_folder_that_an_older_version_hid_is_shown_again(tmp_path):
    journal = JournalOfChanges(tmp_path / "var/changes", 0, OF_THE_SYSTEM, 0o644)
    journal.folder.mkdir(parents=True, mode=0o700)
    with journal.locked():
        assert journal.folder.stat().st_mode & 0o777 == 0o755


def test_no_list_of_processes_shows_an_order(tmp_path, monkeypatch):
    """What belongs to a request goes through the process's standard input."""
    seen = tmp_path / "arguments"
    asks = tmp_path / "asks"
    asks.write_text(f'#!/bin/sh\nprintf "%s\\n" "$@" > {seen}\nexec "$@"\n')
    asks.chmod(0o755)
    monkeypatch.setattr(becoming, "is_administrator", lambda: False)
    monkeypatch.setattr(becoming, "_becoming", lambda: [str(asks)])
    wishes = (
        EntryRequest("user:secret.service", "A name nobody else should read", EntryState.OFF),
    )
    with told(
        "no password was accepted"
    ):  # it arrives: the administrator does not switch a user's own
        administrator.switch(SwitchRequest("key", "0417", "bench", wishes))
    arguments = seen.read_text().splitlines()
    assert arguments[-2:] == ["administer", "switch"]
    assert not {"0417", "secret"} & set(" ".join(arguments).split())


@pytest.mark.parametrize(
    "order", [b"\xff", b"{}", b"[" * 100_000, b'"' * (1 << 21), b"", b'{"key":1}']
)
def test_an_order_that_is_none_is_refused_with_a_sentence(order):
    for request in ("switch", "put-back", "stop", "night-begin", "arm", "anything"):
        if (request, order) == ("put-back", b"{}"):
            continue  # that is an order: everything
        done = subprocess.run(
            [sys.executable, "-m", "plucky_ledger", "administer", request],
            input=order,
            capture_output=True,
            check=False,
        )
        assert done.returncode in {2, 3}, (request, order[:9], done)
        assert b"Traceback" not in done.stderr


def endless(_folders):
    while True:
        pass


def too_much(_folders):
    return "x" * 10_000


def in_trouble(_folders):
    raise Trouble(TroubleCode.NOT_PUT_BACK, path="/a", system="full")


def a_bug(_folders):
    raise ZeroDivisionError


@pytest.mark.parametrize(
    ("work", "code"),
    [
        (endless, TroubleCode.USER_DID_NOT_ANSWER),
        (too_much, TroubleCode.USER_DID_NOT_ANSWER),
        (a_bug, TroubleCode.USER_DID_NOT_ANSWER),
        (lambda _folders: 7, TroubleCode.USER_DID_NOT_ANSWER),
        (in_trouble, TroubleCode.NOT_PUT_BACK),
    ],
)
def test_a_users_process_is_held_to_its_limits(users_home, work, code):
    with pytest.raises(Trouble) as caught:
        as_user(SOMEBODY, work, str, within_seconds=0.5, most_bytes=5_000)
    assert caught.value.code is code


def test_a_users_process_is_the_user_with_nothing_of_roots(users_home, monkeypatch):
    monkeypatch.setenv("PLUCKY_SECRET", "the administrator's")

    def who(folders):
        try:
            Path("/etc/shadow").read_bytes()
        except PermissionError:
            return [str(os.getresuid()), str(folders.config), str("PLUCKY_SECRET" in os.environ)]
        return []

    told_back = as_user(SOMEBODY, who, list[str])
    assert told_back == [str((SOMEBODY,) * 3), str(users_home / ".config"), "False"]
    with pytest.raises(Trouble) as caught:
        as_user(4321, who, list[str])
    assert caught.value.code is TroubleCode.USER_WITHOUT_HOME


def test_a_file_that_is_the_users_is_written_as_theirs(users_home):
    as_user(SOMEBODY, lambda f: write_whole(f.config.parent / "a", b"theirs"), None)
    assert (users_home / "a").stat().st_uid == SOMEBODY


def test_the_list_of_folders_is_the_one_that_is_written_down():
    """docs/security.md names every folder that is written to, and no other."""
    text = (Path(__file__).parents[2] / "docs/security.md").read_text()
    table = text.partition("### Which paths may be written")[2].partition("###")[0]
    rows = [
        row.split("|")[1:3] for row in table.splitlines() if row.startswith(("| sys", "| user"))
    ]
    written = {(level.strip(), folder.strip().strip("`")) for level, folder in rows}
    assert written == {
        *(("system", str(folder)) for folder in OF_THE_SYSTEM.folders),
        *(("system", f"/{table}") for table in SYSTEM_TABLES),
        *(("user", str(folder).replace(str(HOME), "~")) for folder in OF_A_USER.folders),
    }
    for kind in LINKS_BELOW:
        assert f"`.{kind}`" in table
    assert "rwxrwxr-x" in table
    assert stat.filemode(0o100000 | MOST_RIGHTS) == "-rwxrwxr-x"
