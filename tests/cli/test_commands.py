"""The commands without a screen, and the installed command in a real X window."""

import os
import re
import shutil
import signal
import subprocess
import sys
import time
import zlib
from pathlib import Path

import pytest
from click.testing import CliRunner

from plucky_ledger.cli.groups import GROUPS
from plucky_ledger.cli.main import MODULES, main
from plucky_ledger.cli.record import main as record_main
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.demo import write_demo
from plucky_ledger.usecases.jobs.jobs import read_jobs
from tests.helpers.answers import answered
from tests.helpers.standin import record_to


def run(*arguments: object):
    return CliRunner().invoke(main, [str(argument) for argument in arguments])


def test_compare_prints_the_verdict_of_every_posting_and_the_whole(demo_path):
    out = run("compare", "0417", "--ledger", demo_path)
    assert out.exit_code == 0, out.output
    first = "Switched off 5 sign-in programs"
    for words in (first, "Saved.", "Unproven.", "Lost.", "The whole job"):
        assert words in out.output
    sum_line = next(line for line in out.output.splitlines() if line.startswith("Settled: "))
    opening, saved, lost, closing = map(float, re.findall(r"[\d.]+", sum_line))
    assert round(opening - saved + lost, 1) == closing


def test_import_takes_a_job_in_and_refuses_what_is_no_recording(tmp_path):
    ledger, good, bad = tmp_path / "w.ledger", tmp_path / "a.jsonl.gz", tmp_path / "b.jsonl"
    record_to(good, seed=1)
    bad.write_text("nonsense\n")
    assert run("import", bad, "--new", "--ledger", ledger).exit_code == 1
    with Ledger(ledger) as opened:
        assert read_jobs(opened) == ()
    out = run("import", good, good, bad, "--new", "--ledger", ledger)
    assert out.exit_code == 1
    assert "The boot is in the book." in out.output
    assert "in the book already" in out.output
    with Ledger(ledger) as opened:
        job, *_ = read_jobs(opened)
    assert len(job.opening_boots) == 1
    assert job.card.label in run("jobs", "--ledger", ledger).output


def test_entries_are_listed_and_decided_on_a_terminal(demo_path):
    out = run("entries", "0417", "--line", "0", "--system", "--ledger", demo_path).output
    for words in ("Saltmarsh Backup", "heavy", "start later", "wireless setup", "1 off, 1 later"):
        assert words.casefold() in out.casefold(), words
    assert (
        run(
            "decide", "0417", "Brassrail Till", "off", "--why", "x", "--ledger", demo_path
        ).exit_code
        == 0
    )
    assert "2 off, 1 later" in run("entries", "0417", "--ledger", demo_path).output
    for arguments, told in (
        (("decide", "0417", "Harbour Guard", "off"), "once more"),
        (("decide", "0417", "Nobody", "keep"), "is called Nobody"),
        (("entries", "0417", "--line", "44"), "no line 44"),
    ):
        out = run(*arguments, "--ledger", demo_path)
        assert out.exit_code == 1
        assert told in out.output


def test_why_it_is_still_slow_is_told_on_a_terminal(demo_path):
    out = run("why", "0417", "--ledger", demo_path)
    assert out.exit_code == 0, out.output
    for words in ("Waiting for the disk", "would settle at", "solid-state drive"):
        assert words in out.output
    told = answered(run("why", "0417", "--json", "--ledger", demo_path).output)
    assert [finding["rule"] for finding in told["findings"]] == ["drive_pinned"]
    steps = run("trend", "0417", "--in", "settled", "--ledger", demo_path)
    assert "Posted here: Saltmarsh Backup starts later." in steps.output
    (*_, newest) = answered(run("trend", "0417", "--json", "--ledger", demo_path).output)["steps"]
    assert newest["after"] < newest["before"]
    assert "The bin" in run("room", "0417", "--ledger", demo_path).output
    room = answered(run("room", "0417", "--json", "--ledger", demo_path).output)
    assert room["whole"]


def bare(*arguments):
    """A command as it is where only the base is installed."""
    code = (
        "import sys\nfor name in ('numpy', 'scipy', 'PySide6'): sys.modules[name] = None\n"
        "from plucky_ledger.cli.main import main\nmain()"
    )
    words = [sys.executable, "-c", code, *map(str, arguments)]
    return subprocess.run(words, capture_output=True, text=True, check=False)


def test_without_numerics_nothing_is_called_fine_and_every_entry_is_listed(demo_path):
    with_numerics = answered(
        run("entries", "0417", "--json", "--system", "--ledger", demo_path).output
    )
    out = bare("why", "0417", "--ledger", demo_path)
    assert (out.returncode, out.stdout) == (1, "")
    assert "The package numpy is not installed. Install it with" in out.stderr
    assert "plucky-ledger[numerics]" in out.stderr
    listed = bare("entries", "0417", "--json", "--system", "--ledger", demo_path)
    assert listed.returncode == 0, listed.stderr
    names = {row["entry"]["entry_id"] for row in answered(listed.stdout)["entries"]}
    assert names == {row["entry"]["entry_id"] for row in with_numerics["entries"]}
    told = bare("entries", "0417", "--ledger", demo_path).stdout
    assert "Costs are not worked out: the package numpy is missing. Install it with" in told


@pytest.mark.parametrize("name", ["s.html", "s.pdf"])
def test_statement_is_written(demo_path, tmp_path, name):
    out = run("statement", "0417", "--ledger", demo_path, "--out", tmp_path / name)
    assert out.exit_code == 0, out.output
    assert (tmp_path / name).stat().st_size > 4000


def test_trouble_is_one_sentence_and_an_exit_status(demo_path, tmp_path):
    (tmp_path / "text").write_text("no ledger, only text that somebody named like one\n" * 4)
    for arguments, told in (
        (("compare", "9999", "--ledger", demo_path), "No job has the label 9999"),
        (("compare", "1", "--ledger", tmp_path / "text"), "not a ledger"),
        (("demo-ledger", demo_path), "exists already"),
    ):
        out = run(*arguments)
        assert out.exit_code == 1
        assert told in out.output
        assert "Traceback" not in out.output


def told_instead_of_a_window(**environment):
    """The one line that is said where no window can be opened."""
    displays = {"DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"}
    bare = {name: value for name, value in os.environ.items() if name not in displays}
    done = subprocess.run(
        [sys.executable, "-m", "plucky_ledger", "--demo"],
        env={**bare, **environment},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 1
    assert done.stderr.count("\n") == 1
    return done.stderr


def test_without_a_display_one_line_says_how_to_see_it():
    assert "no display" in told_instead_of_a_window()


def test_a_display_that_cannot_be_reached_is_told_in_a_sentence():
    """Qt by itself aborts."""
    assert ":4711" in told_instead_of_a_window(DISPLAY=":4711", QT_QPA_PLATFORM="xcb")


def test_a_missing_library_is_told_with_the_line_that_installs_it(tmp_path):
    """As where a library of the system is not there that Qt is linked to."""
    (tmp_path / "PySide6").mkdir()
    for module in ("__init__", "QtCore"):
        (tmp_path / f"PySide6/{module}.py").write_text(
            "raise ImportError('libEGL.so.1: cannot open shared object file')\n"
        )
    (tmp_path / "sitecustomize.py").write_text(
        "from plucky_ledger.linux import window_libraries\n"
        "window_libraries._loads = lambda name: 'EGL' not in name\n"
    )
    said = told_instead_of_a_window(PYTHONPATH=os.pathsep.join([str(tmp_path), *sys.path]))
    assert "libEGL.so.1" in said
    assert "Install it with" in said


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="Xvfb is not installed (Debian: xvfb)")
def test_the_installed_command_paints_a_real_window(tmp_path, demo_path):
    """Started as a user would, on an X server; the screen is read back and is not blank."""
    picture_folder = tmp_path / "screen"
    picture_folder.mkdir()
    server = subprocess.Popen(
        [
            "Xvfb",
            "-displayfd",
            "1",
            "-screen",
            "0",
            "1280x800x24",
            "-fbdir",
            str(picture_folder),
            "-nolisten",
            "tcp",
        ],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
    )
    assert server.stdout is not None
    display = f":{server.stdout.readline().decode().strip()}"
    environment = {**os.environ, "DISPLAY": display, "QT_QPA_PLATFORM": "xcb"}
    command = Path(sys.executable).with_name("plucky-ledger")
    window = subprocess.Popen(
        [command, "--ledger", demo_path], env=environment, stderr=subprocess.PIPE
    )
    try:
        deadline = time.monotonic() + 40
        colours: set[bytes] = set()
        while len(colours) < 20 and time.monotonic() < deadline and window.poll() is None:
            time.sleep(0.3)
            pixels = (picture_folder / "Xvfb_screen0").read_bytes()[-1280 * 800 * 4 :]
            colours = {pixels[at : at + 4] for at in range(0, len(pixels), 4 * 997)}
        assert window.poll() is None, window.stderr.read() if window.stderr else ""
        assert len(colours) >= 20, "nothing was painted"
        window.send_signal(signal.SIGTERM)
        assert window.wait(timeout=20) == 0, "it was cut off, not closed"
    finally:
        for process in (window, server):
            process.terminate()
            process.wait(timeout=10)
            for stream in (process.stdout, process.stderr):
                if stream is not None:
                    stream.close()


@pytest.fixture
def this_pcs_ledger(tmp_path):
    """A ledger with one job about the PC we run on."""
    ledger = tmp_path / "this.ledger"
    assert run("take-in", "Bench PC", "--this-pc", "--new", "--ledger", ledger).exit_code == 0
    return ledger


def test_arming_from_the_terminal_leaves_no_trace_behind(tmp_path, this_pcs_ledger, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    armed = run("arm", "0001", "--boots", 2, "--autostart", "--ledger", this_pcs_ledger)
    assert "Armed for 2 boots" in armed.output
    assert list((tmp_path / "config" / "autostart").iterdir())
    assert "already" in run("arm", "0001", "--ledger", this_pcs_ledger).output
    assert "every trace is removed" in run("disarm", "0001", "--ledger", this_pcs_ledger).output
    assert not (tmp_path / "config").exists()
    assert run("arm", "9999", "--ledger", this_pcs_ledger).exit_code == 1


def test_past_boots_without_a_log_are_a_sentence(this_pcs_ledger, monkeypatch, tmp_path):
    monkeypatch.setenv("PATH", str(tmp_path))
    out = run("past-boots", "0001", "--ledger", this_pcs_ledger)
    assert out.exit_code == 1
    assert "Record its boots instead" in out.output


def test_a_demo_that_is_stopped_leaves_nothing(tmp_path):
    assert not write_demo(tmp_path / "demo.ledger", lambda done, _total: done < 2)
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(
    "arguments",
    [("--for", "0"), ("--for", "soon"), ("--rate", "99"), ("--rate", "0.01"), ("--nonsense",)],
)
def test_the_recorder_refuses_what_it_cannot_do(arguments, capsys):
    with pytest.raises(SystemExit) as refused:
        record_main(arguments)
    assert refused.value.code == 2
    assert "record" in capsys.readouterr().err


def test_demo_opens_the_demo_as_the_option_does():
    opened = []

    def window(path, with_demo):
        opened.append((path.name, with_demo))
        return 0

    for arguments in (["demo"], ["--demo"]):
        assert CliRunner().invoke(main, arguments, obj=window).exit_code == 0
    assert opened == [("demo.ledger", True)] * 2
    refused = CliRunner().invoke(main, ["demo", "--out", "x.pdf"], obj=window)
    assert refused.exit_code == 2
    assert "go with --play" in refused.output


def test_the_help_lists_every_command_once_in_the_order_of_the_work():
    named = [name for names in GROUPS.values() for name in names]
    assert sorted(named) == main.list_commands(None)
    told = CliRunner().invoke(main, ["-h"]).output
    assert told == CliRunner().invoke(main, ["--help"]).output
    assert "..." not in told.partition("[ARGS]...")[2]
    places = [told.index(f"\n  {name} ") for name in named]
    assert places == sorted(places)


def test_what_a_double_click_opens(tmp_path, monkeypatch):
    opened = []

    def window(path, with_demo, recordings=()):
        opened.append((path.name, with_demo, [one.name for one in recordings]))
        return 0

    ledger = tmp_path / "mine.ledger"
    ledger.touch()
    beside = []
    monkeypatch.setattr(subprocess, "Popen", beside.append)
    for files in ((str(ledger),), ("a.jsonl.gz", "b.jsonl"), (), ("gone.ledger",)):
        CliRunner().invoke(main, ["open", *files], obj=window)
    assert not beside
    CliRunner().invoke(main, ["open", str(ledger), str(ledger)], obj=window)
    assert [command[-1] for command in beside] == [str(ledger)]
    assert opened == [
        ("mine.ledger", False, []),
        ("workshop.ledger", False, ["a.jsonl.gz", "b.jsonl"]),
        ("workshop.ledger", False, []),
        ("mine.ledger", False, []),
    ]


def test_a_python_that_is_too_old_gets_one_sentence():
    code = "import sys; sys.version_info = (3, 9, 2); import plucky_ledger"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 1
    assert done.stderr == "Plucky Ledger needs Python 3.11 or later; this is 3.9.\n"


def test_help_and_what_is_wrong_with_a_command_are_in_the_users_language():
    script = (
        "from plucky_ledger.cli.main import main\n"
        "context = main.make_context('plucky-ledger', [], resilient_parsing=True)\n"
        "for name in main.list_commands(context):\n"
        "    if name != 'record':\n"  # it reads its own arguments
        "        main([name, '--help'], standalone_mode=False)\n"
        "main(['arm', '--such'])\n"
    )
    environment = {**os.environ, "LANG": "de_DE.UTF-8", "PYTHONIOENCODING": "utf-8"}
    command = [sys.executable, "-c", script]
    told = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
    commands = sum(map(len, MODULES.values())) + 2  # and completion, open
    assert told.stdout.count("Aufruf: ") == told.stdout.count("Zeigt diese Hilfe.") == commands
    assert not re.search(r"Usage|Options|Show this|\bthe\b", told.stdout)
    assert "Die Option '--such' gibt es nicht." in told.stderr
    record = [sys.executable, "-m", "plucky_ledger", "record", "--help"]
    told = subprocess.run(record, env=environment, capture_output=True, text=True, check=True)
    assert "wie lange aufgezeichnet wird" in told.stdout
    assert "zeigt diese Hilfe" in told.stdout


def test_a_statement_as_pdf_is_made_to_be_kept_and_read_aloud(demo_path, tmp_path):
    """PDF/A-2, and where the library can do that, tagged: its structure is read here."""
    path = tmp_path / "s.pdf"
    assert run("statement", "0417", "--out", path, "--ledger", demo_path).exit_code == 0
    data = path.read_bytes()
    packed = re.findall(rb"stream\r?\n(.*?)\r?\nendstream", data, re.DOTALL)
    told = data + b"".join(filter(None, map(_unpacked, packed)))
    assert b'pdfaid:part="2"' in told
    (conformance,) = re.findall(rb'pdfaid:conformance="(\w)"', told)
    assert conformance in b"AU"
    assert b"/OutputIntents" in told
    assert b"/Lang" in told
    if conformance == b"A":
        assert b"/StructTreeRoot" in told
        assert b"/Marked true" in told
        for element in (b"/H1", b"/H2", b"/LI", b"/TH", b"/TD", b"/Figure"):
            assert element in told, element
        assert b"at first: 77 s. now: 55 s." in told  # the picture, in words


def _unpacked(stream: bytes) -> bytes:
    try:
        return zlib.decompress(stream)
    except zlib.error:
        return stream
