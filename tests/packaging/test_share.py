"""What desktops, shells and the administrator's asker read of us is whole, and is about us."""

import configparser
import gzip
import shutil
import subprocess
import sys
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest
from PySide6.QtGui import QImage
from tools.policy import ACTION, ASKED, PROGRAM, policy
from tools.share import COMPLETIONS, SIZES

from plucky_ledger import __version__
from plucky_ledger.capture import administrator as of_recording
from plucky_ledger.cli.main import main
from plucky_ledger.control import administrator as of_control
from plucky_ledger.linux import administrator
from plucky_ledger.night import administrator as of_night

SHARE = Path(__file__).parents[2] / "tools/share.py"
METAINFO = "metainfo/example.pluckyledger.PluckyLedger.metainfo.xml"


@pytest.fixture(scope="module")
def share(tmp_path_factory):
    folder = tmp_path_factory.mktemp("filled")
    # In a process of its own: drawing takes an application, and the window's tests have another.
    subprocess.run([sys.executable, SHARE, folder], check=True)
    return folder / "share"


def test_the_menu_entry_starts_what_there_is_and_opens_our_files(share):
    entry = configparser.RawConfigParser()
    entry.optionxform = str
    entry.read(share / "applications/plucky-ledger.desktop", "utf-8")
    group = entry["Desktop Entry"]
    program, command, field = group["Exec"].split()
    assert (program, field) == ("plucky-ledger", "%F")
    assert command in main.list_commands(None)
    types = ET.parse(share / "mime/packages/plucky-ledger.xml").getroot()
    described = {one.get("type") for one in types}
    assert set(group["MimeType"].rstrip(";").split(";")) == described
    for name in ("apps/plucky-ledger", "mimetypes/application-vnd.plucky-ledger"):
        assert (share / f"icons/hicolor/scalable/{name}.svg").exists()
        for size in SIZES:
            picture = QImage(str(share / f"icons/hicolor/{size}x{size}/{name}.png"))
            assert picture.width() == size
            assert len({picture.pixel(x, size // 2) for x in range(size)}) > 2


def test_the_description_is_valid_and_of_this_version(share):
    root = ET.parse(share / METAINFO).getroot()
    assert root.find("releases/release").get("version") == __version__
    if shutil.which("appstreamcli"):
        subprocess.run(["appstreamcli", "validate", "--no-net", share / METAINFO], check=True)


def test_every_command_has_a_manual_page(share):
    names = main.list_commands(None)
    pages = {path.name: gzip.decompress(path.read_bytes()) for path in share.glob("man/man1/*")}
    groups = {name: main.get_command(None, name) for name in names}
    inner = [
        f"{name}-{below}"
        for name, group in groups.items()
        for below in getattr(group, "commands", ())
    ]
    every = (f"plucky-ledger-{name}.1.gz" for name in (*names, *inner))
    assert set(pages) == {"plucky-ledger.1.gz", *every}
    whole = pages["plucky-ledger.1.gz"].decode()
    for name in names:
        assert f".B {name.replace('-', chr(92) + '-')}\n" in whole
    assert b"..." not in whole.partition("COMMANDS")[2].encode()  # no sentence is cut
    if shutil.which("groff"):
        for page in pages.values():
            done = subprocess.run(
                ["groff", "-man", "-Tutf8", "-wmac"], input=page, capture_output=True, check=True
            )
            assert done.stderr == b""


def test_completions_are_of_their_shells(share):
    for path in COMPLETIONS.values():
        assert "plucky" in (share / path).read_text()
    subprocess.run(["bash", "-n", share / COMPLETIONS["bash"]], check=True)


def test_each_request_to_the_administrator_has_an_action_in_words():
    recording = {
        getattr(of_recording, name) for name in ("ARM", "DISARM", "PAST_BOOTS", "INSPECT", "SURVEY")
    }
    assert set(ASKED) == of_control.REQUESTS | of_night.REQUESTS | recording
    root = ET.fromstring(policy().split("?>", 1)[1])
    for action in root.findall("action"):
        about = {one.get("key").rpartition(".")[2]: one.text for one in action.findall("annotate")}
        assert about == {"path": PROGRAM, "argv1": action.get("id").removeprefix(f"{ACTION}.")}
        assert len({message.text for message in action.findall("message")}) == 2
        assert action.find("defaults/allow_any").text == "auth_admin"


def test_the_administrator_is_asked_by_our_own_program_only_where_it_is_theirs(
    tmp_path, monkeypatch
):
    """A program that somebody else could have put there is never run as administrator."""
    monkeypatch.setattr(administrator, "_becoming", lambda: ["pkexec"])
    monkeypatch.setattr(administrator.sys, "prefix", str(tmp_path))
    program = tmp_path / administrator.ADMINISTER
    program.parent.mkdir(parents=True)
    program.write_text("#!/bin/sh\n")
    trusted = []
    monkeypatch.setattr(administrator, "only_the_administrator_changes", trusted.__contains__)
    assert administrator._command("arm")[1:3] == [administrator.sys.executable, "-I"]
    trusted.append(program)
    assert administrator._command("arm") == ["pkexec", str(program), "arm"]
