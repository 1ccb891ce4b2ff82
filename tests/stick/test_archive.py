"""The one file: what is in it, that it records as the installed recorder, and what it says."""

import ast
import json
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

from plucky_ledger.cli.main import main
from plucky_ledger.recording.reader import read_recording
from plucky_ledger.stick import archive, putting
from plucky_ledger.stick.archive import FILE, GUIDE, stick_bytes, write_stick
from plucky_ledger.stick.older_python import OLDEST, for_older
from plucky_ledger.wording.stick import guide, words_of_the_stick

DATA = Path(__file__).parents[1] / "data/real-boot"
BOOTS = sorted(DATA.glob("*.jsonl.gz"))
LARGEST_BYTES = 300_000
NOT_ON_FAT = set('\\/:*?"<>|')


@pytest.fixture(scope="module")
def stick(tmp_path_factory):
    return write_stick(tmp_path_factory.mktemp("stick"), words_of_the_stick, guide(FILE))


def run(stick, *options, **settings):
    return subprocess.run(
        ["sh", stick, *options], capture_output=True, text=True, check=False, **settings
    )


def test_it_records_byte_for_byte_as_the_installed_recorder(stick, tmp_path):
    """The same source, and every line of real boots read and written."""
    driver = Path(__file__).with_name("recorded_alike.py")
    lines = [
        str(boot) for boot in BOOTS if boot.name not in {"samples.jsonl.gz", "journal.jsonl.gz"}
    ]
    assert len(lines) >= 5
    for name, by in (("installed", ()), ("carried", (stick,))):
        (tmp_path / name).mkdir()
        subprocess.run([sys.executable, driver, *by, tmp_path / name, *lines], check=True)
    for file in ("played.jsonl.gz", "again.jsonl"):
        ours, theirs = (tmp_path / name / file for name in ("installed", "carried"))
        assert ours.stat().st_size > 4_000
        assert ours.read_bytes() == theirs.read_bytes()


def test_it_records_this_machine_onto_the_stick(stick):
    done = run(stick, "--record-now", "5")
    assert done.returncode == 0, done.stderr
    (folder,) = (stick.parent / "plucky-ledger-recordings").iterdir()
    (recording,) = folder.glob("*.jsonl.gz")
    assert recording.name in done.stdout
    assert json.loads((folder / "pc.json").read_text())["name"]
    with recording.open("rb") as file:
        read = read_recording(file)
    assert len(read.samples) > 3
    assert not read.cut_short
    assert not read.damage


def test_everything_in_it_is_python_3_9(stick):
    """But for what no parser can tell: tests on a real PC of that release run it."""
    with zipfile.ZipFile(stick) as packed:
        names = packed.namelist()
        sources = {name: packed.read(name).decode() for name in names if name.endswith(".py")}
    recorder = "plucky_ledger/capture/arming/armed_recorder.py"
    assert {recorder, "msgspec/json.py", "jeepney/bus.py", "jeepney/LICENSE"} <= set(names)
    assert not [
        name for name in names if name.startswith(("plucky_ledger/ui", "plucky_ledger/cli"))
    ]
    for name, source in sources.items():
        compile(source, name, "exec", dont_inherit=True)
        ast.parse(source, name, feature_version=OLDEST)
    assert stick.stat().st_size < LARGEST_BYTES
    assert not set(FILE + GUIDE) & NOT_ON_FAT


def test_the_same_source_gives_the_same_bytes():
    assert stick_bytes(words_of_the_stick) == stick_bytes(words_of_the_stick)


@pytest.mark.parametrize(
    ("source", "older"),
    [
        ('"""A."""\nimport os\n', '"""A."""\nfrom __future__ import annotations\nimport os\n'),
        ("Fact = str | Some | None\n", None),
        ("pairs = zip(a, b, strict=True)\n", "pairs = zip(a, b)\n"),
        ("FLAGS = A | B\nü = os.O_X | os.O_Y\n", "FLAGS = A | B\nü = os.O_X | os.O_Y\n"),
    ],
)
def test_a_source_for_an_older_python(source, older):
    future = "from __future__ import annotations\n"
    wanted = older or 'Fact = __import__("typing").Union[str, Some, None]\n'
    assert for_older(source) == (wanted if future in wanted else future + wanted)


def test_where_there_is_no_python_it_says_so(stick, tmp_path):
    """By its shell's first lines: an interpreter that is too old is none."""
    old = tmp_path / "python3"
    old.write_text("#!/bin/sh\nexit 1\n")
    old.chmod(0o755)
    lines = stick.read_bytes().split(b"PK\x03\x04")[0].decode()
    head = tmp_path / "head"
    head.write_text(lines.replace("/usr/bin/python3", str(old)))
    done = run(head, env={"PATH": str(tmp_path)}, executable="/bin/sh")
    assert done.returncode == 1
    assert "needs Python 3.9" in done.stderr


def test_it_speaks_the_language_of_the_pc(stick):
    assert (
        "Aufzeichnungen"
        in run(stick, "--help", env={"LANG": "de_DE.UTF-8", "PATH": "/usr/bin"}).stdout
    )
    assert "recordings" in run(stick, "--help", env={"LANG": "xx", "PATH": "/usr/bin"}).stdout


def test_by_the_command(tmp_path):
    """It takes the place of an older one; what cannot be written is told."""
    folder = tmp_path / "new" / "stick"
    for _ in range(2):
        with pytest.raises(SystemExit) as ended:
            main(["stick", str(folder)])
        assert ended.value.code == 0
    assert sorted(path.name for path in folder.iterdir()) == [GUIDE, FILE]
    assert (folder / FILE).stat().st_mode & 0o111
    text = (folder / GUIDE).read_bytes()
    assert b"\r\n2. Type:  sh plucky-ledger-stick" in text


def test_nothing_half_written_is_left_on_a_full_stick(tmp_path, monkeypatch):
    def refuse(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(putting.os, "fsync", refuse)
    with pytest.raises(OSError, match="No space"):
        write_stick(tmp_path, words_of_the_stick, guide(FILE))
    assert not [*tmp_path.iterdir()]


def test_a_file_system_without_modes_is_no_trouble(tmp_path, monkeypatch):
    def refuse(*_):
        raise PermissionError(1, "Operation not permitted")

    monkeypatch.setattr(archive.Path, "chmod", refuse)
    assert write_stick(tmp_path, words_of_the_stick, guide(FILE)).exists()
