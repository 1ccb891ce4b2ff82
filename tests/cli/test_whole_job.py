"""A whole job on a terminal, for people and for scripts: one way everywhere, JOB --ledger FILE."""

import os
import shlex
import subprocess
import sys
from pathlib import Path

import click
import pytest
from click.testing import CliRunner

from plucky_ledger.cli.completion import completion_class
from plucky_ledger.cli.main import main
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import find_job, read_job
from plucky_ledger.usecases.recording import boots
from tests.helpers.answers import answered
from tests.helpers.standin import record_to

MARKS = {Mark.POWER_ON: 0.0, Mark.SIGN_IN_SHOWN: 20.0, Mark.SIGNED_IN: 28.0, Mark.READY: 55.0}


@pytest.fixture
def ledger(tmp_path):
    return tmp_path / "workshop.ledger"


@pytest.fixture
def run(ledger):
    def command(words: str, status: int = 0) -> str:
        arguments = [*shlex.split(words), "--ledger", str(ledger)]
        if words.startswith(("take-in", "import")):
            arguments.append("--new")
        out = CliRunner().invoke(main, arguments)
        assert out.exit_code == status, f"{words}: {out.output}"
        assert "Traceback" not in out.output
        return out.output

    return command


@pytest.fixture
def job(ledger):
    def read():
        with Ledger(ledger) as opened:
            return read_job(opened, find_job(opened, "0001"))

    return read


def time_boots(ledger: Path, *ready: float) -> None:
    """Boots timed by hand, now."""
    with Ledger(ledger) as opened:
        number = find_job(opened, "0001")
        for seconds in ready:
            boots.add_timed(opened, number, {**MARKS, Mark.READY: seconds}, now())


def test_a_job_from_taking_in_to_putting_back(run, ledger, job):
    assert run('take-in "Front desk PC" --owner "Gullwing Maritime Museum"').strip() == "0001"
    time_boots(ledger, 55.0, 55.4, 54.6)
    run('pencil 0001 "swap file doubled" --kind swap --why "somebody said it helps"')
    run("rub-out 0001")
    assert job().pencilled is None
    run('pencil 0001 "swap file doubled" --kind swap')
    assert "restart the PC" in run("post 0001")
    time_boots(ledger, 45.0, 45.4, 44.6)
    book = run("book 0001 --in ready")
    assert "swap file doubled" in book
    assert "10.0" in book
    verdicts = answered(run("compare 0001 --in ready --json"))
    assert verdicts[0]["shift"]["verdict"] == "saved"
    assert "Saved." in run("compare 0001 --in ready")
    run('set-aside 0001 --line 1 --boot 2 --why "somebody was at the door"')
    assert [boot.counts for boot in job().rounds[1]] == [True, False, True]
    run("bring-back 0001 --line 1 --boot 2")
    assert all(boot.counts for boot in job().rounds[1])
    assert "Struck out" in run('put-back 0001 --line 1 --why "it helped nobody"')
    assert len(job().postings) == 2
    assert "put a posting back" in run("undo 0001")
    assert len(job().postings) == 1
    assert "Redone" in run("redo 0001")
    assert len(job().postings) == 2


@pytest.mark.parametrize(
    "words",
    [
        "jobs",
        "book 0417",
        "compare 0417",
        "entries 0417 --line 0",
        "entries 0417 --system",
        "load 0417 --line 0",
        "load 0417 --by-entry --span at_rest",
    ],
)
def test_what_is_printed_can_be_had_as_json(demo_path, words):
    arguments = [*words.split(), "--ledger", str(demo_path)]
    plain = CliRunner().invoke(main, arguments)
    out = CliRunner().invoke(main, [*arguments, "--json"])
    assert (plain.exit_code, out.exit_code) == (0, 0), plain.output + out.output
    assert answered(out.output)
    assert plain.output != out.output


def test_json_carries_codes_and_plain_numbers(demo_path):
    """What a script reads does not change with the language or a better sentence."""
    arguments = ["entries", "0417", "--line", "0", "--json", "--ledger", str(demo_path)]
    entries = answered(CliRunner().invoke(main, arguments).output)["entries"]
    backup = next(row for row in entries if row["entry"]["name"] == "Saltmarsh Backup")
    assert backup["grade"] == "heavy"
    assert backup["decided"]["decision"] == "later"
    assert backup["entry"]["kind"] == "sign_in_program"
    assert backup["cost"]["settled"]["low"] < backup["cost"]["settled"]["high"]


def test_imported_recordings_are_answered_one_by_one(run, tmp_path):
    good, bad = tmp_path / "good.jsonl.gz", tmp_path / "bad.jsonl"
    record_to(good, seed=1, seconds=30.0)
    bad.write_text("nonsense\n")
    answers = answered(run(f"import {good} {bad} --json", status=1))
    assert [one["refused"] for one in answers] == [False, True]
    assert answers[0]["boot"]
    assert "Line 1" in answers[1]["told"]


def test_what_touched_the_ledger_is_in_the_log(run, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    recording = tmp_path / "good.jsonl.gz"
    record_to(recording, seed=1, seconds=30.0)
    run(f"import {recording}")
    (log,) = (tmp_path / "state").rglob("*.log")
    assert f"{recording} into job 1" in log.read_text()


@pytest.mark.parametrize(
    ("words", "why"),
    [
        ("book 0001", "There is no ledger"),
        ("jobs", "There is no ledger"),
        ("undo", "There is no ledger"),
    ],
)
def test_reading_never_makes_a_ledger(run, ledger, words, why):
    assert why in run(words, status=1)
    assert not ledger.exists()


@pytest.mark.parametrize(
    ("words", "why"),
    [
        ("post 0001", "othing is pencilled"),
        ("rub-out 0001", "othing is pencilled"),
        ("put-back 0001 --line 0", "line"),
        ("set-aside 0001 --line 0 --boot 9 --why x", "boot"),
        ("entries 0002", "No job has the label 0002"),
        ("take-in ' '", "PC"),
    ],
)
def test_what_cannot_be_is_one_sentence_and_changes_nothing(run, ledger, words, why):
    run("take-in 'Front desk PC'")
    before = ledger.read_bytes()
    said = run(words, status=1)
    assert why in said
    assert said.strip().count("\n") == 0
    assert ledger.read_bytes() == before


def test_text_from_outside_is_no_markup_and_no_terminal_command(run, ledger):
    run("take-in '[red]Front[/red] \x1b[2Jdesk'")
    time_boots(ledger, 55.0)
    for words in ("jobs", "book 0001"):
        shown = run(words)
        assert "\x1b[2J" not in shown
    assert "[red]" in run("jobs")


def test_labels_complete(demo_path):
    command = main.get_command(click.Context(main), "book")
    assert command is not None
    context = click.Context(command)
    context.params["ledger"] = str(demo_path)
    (argument,) = [one for one in command.params if one.name == "job"]
    assert {item.value for item in argument.shell_complete(context, "04")} == {"0417"}
    context.params["ledger"] = str(demo_path.with_name("none.ledger"))
    assert argument.shell_complete(context, "04") == []


@pytest.mark.parametrize(
    ("begun", "word", "offered"),
    [
        (["decide", "0417", "--ledger", ...], "Tide", {"TideClock Sync"}),
        (["decide", "0417", "--ledger", ...], "tide", {"tideclock-sync"}),
        (["stop-now", "0417", "--ledger", ...], "Salt", {"Saltmarsh Backup"}),
        (["decide", "none", "--ledger", ...], "Tide", set()),
        (["put-back", "0417", "--ledger", ..., "--entry"], "quay", {"quaybell-helper"}),
        (["import", "--ledger", ..., "--job"], "04", {"0417"}),
        (["undo", "--ledger", ...], "04", {"0417"}),
        (["record"], "--un", {"--until-settled"}),
        (
            ["record", "--for", "5"],
            "--",
            {"--help", "--out", "--rate", "--until-settled", "--echo"},
        ),
    ],
)
def test_entries_jobs_and_options_of_the_recorder_complete(demo_path, begun, word, offered):
    words = [str(demo_path) if one is ... else one for one in begun]
    shell = completion_class("bash")(main, {}, "plucky-ledger", "_COMPLETE")
    assert {item.value for item in shell.get_completions(words, word)} == offered


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_completion_is_printed_for_each_shell(shell):
    out = CliRunner().invoke(main, ["completion", shell])
    assert out.exit_code == 0
    assert "_PLUCKY_LEDGER_COMPLETE" in out.output


WITHOUT_LEDGER = {"completion", "changes", "stick", "open", "workshop", "move"}
"""Commands that are about no ledger, and those whose arguments are ledgers."""


def test_every_command_is_listed_and_has_help():
    context = click.Context(main)
    names = main.list_commands(context)
    assert {"take-in", "record", "arm", "disarm", "pick-up", "load", "compare"} <= set(names)
    for name in set(names) - {"record"}:
        command = main.get_command(context, name)
        assert command is not None, name
        assert command.name == name
        assert command.get_short_help_str(), name
        takes = {parameter.name for parameter in command.params}
        assert "ledger" in takes or name in WITHOUT_LEDGER, name


def installed(*arguments: object, **environment: str):
    command = Path(sys.executable).with_name("plucky-ledger")
    return subprocess.run(
        [command, *map(str, arguments)],
        env={**os.environ, **environment},
        capture_output=True,
        text=True,
        check=False,
    )


def test_disarming_needs_no_ledger(run, ledger, tmp_path):
    """Also where it is damaged: what starts the recorder has to go."""
    config = str(tmp_path / "config")
    run("take-in 'Front desk PC' --this-pc")
    armed = installed("arm", "0001", "--autostart", "--ledger", ledger, XDG_CONFIG_HOME=config)
    assert armed.returncode == 0, armed.stderr
    assert list((tmp_path / "config" / "autostart").iterdir())
    ledger.write_bytes(b"damaged")
    done = installed("disarm", "0001", "--ledger", ledger, XDG_CONFIG_HOME=config)
    assert done.returncode == 0, done.stderr
    assert "every trace is removed" in done.stdout
    assert not (tmp_path / "config").exists()


def test_the_quick_paths_load_nothing_heavy(tmp_path):
    """They run while a customer's PC starts."""
    argv = ["plucky-ledger", "record", "--for", "1", "--out", str(tmp_path / "r.jsonl")]
    look = (
        f"import sys; sys.argv = {argv}; from plucky_ledger.__main__ import main\n"
        "try: main()\n"
        "except SystemExit: pass\n"
        "heavy = {'numpy', 'sqlalchemy', 'click', 'babel', 'scipy', 'PySide6', 'alembic'}\n"
        "print(sorted(heavy & set(sys.modules)), file=sys.stderr)"
    )
    done = subprocess.run([sys.executable, "-c", look], capture_output=True, text=True, check=False)
    assert done.stderr.strip().splitlines()[-1] == "[]", done.stderr


def test_a_command_loads_neither_qt_nor_scipy(demo_path):
    look = (
        "import sys\nfrom plucky_ledger.cli.main import main\n"
        f"main(['jobs', '--ledger', {str(demo_path)!r}], standalone_mode=False)\n"
        "heavy = {'numpy', 'scipy', 'PySide6', 'alembic', 'weasyprint', 'jinja2', 'tabulate'}\n"
        "print(sorted(heavy & set(sys.modules)), file=sys.stderr)"
    )
    done = subprocess.run([sys.executable, "-c", look], capture_output=True, text=True, check=False)
    assert done.stderr.strip().splitlines()[-1] == "[]", done.stderr


@pytest.mark.parametrize("kind", ["fifo", "folder", "device"])
@pytest.mark.parametrize("ending", [".html", ".pdf"])
def test_a_statement_replaces_files_only(demo_path, tmp_path, kind, ending):
    path = tmp_path / f"out{ending}"
    if kind == "fifo":
        os.mkfifo(path)
    elif kind == "folder":
        path.mkdir()
    else:
        path.symlink_to("/dev/null")
    before = path.lstat()
    out = CliRunner().invoke(
        main, ["statement", "0417", "--out", str(path), "--ledger", str(demo_path)]
    )
    assert out.exit_code == 1
    assert "is no file" in out.output
    assert path.lstat().st_mode == before.st_mode


def test_a_file_name_says_what_the_file_is(demo_path, tmp_path):
    path = tmp_path / "statement.txt"
    words = ["statement", "0417", "--out", str(path), "--ledger", str(demo_path)]
    out = CliRunner().invoke(main, words)
    assert out.exit_code == 1
    assert ".pdf, .html" in out.output
    assert not path.exists()


@pytest.mark.parametrize(
    "words", ["take-in 'Front desk PC'", "import boot.jsonl.gz", "", "jobs", "arm 0001"]
)
def test_a_mistyped_ledger_makes_no_new_one(tmp_path, words):
    mistyped = tmp_path / "mistyped.ledger"
    out = CliRunner().invoke(
        main,
        ["--ledger", str(mistyped)]
        if not words
        else [*shlex.split(words), "--ledger", str(mistyped)],
    )
    assert out.exit_code == 1
    assert "begin a new one there with --new" in out.output
    assert list(tmp_path.iterdir()) == []


def test_a_terminal_with_few_characters_and_names_that_are_no_text(demo_path, tmp_path):
    """An ASCII terminal, a file name in some old encoding, and a user without a home."""
    plain = {"PYTHONIOENCODING": "ascii", "LC_ALL": "C", "PYTHONUTF8": "0"}
    for words in ("jobs", "book 0417", "entries 0417", "compare 0417"):
        done = installed(*words.split(), "--ledger", demo_path, **plain)
        assert done.returncode == 0, done.stderr
        assert "Traceback" not in done.stderr
    odd = os.fsencode(tmp_path) + b"/caf\xe9.jsonl"
    command = str(Path(sys.executable).with_name("plucky-ledger")).encode()
    for arguments in (
        [b"import", odd],
        [b"take-in", b"caf\xe9 PC"],
        [b"import", odd, b"--job", b"1"],
    ):
        done = subprocess.run(
            [command, *arguments, b"--new", b"--ledger", os.fsencode(tmp_path / "new.ledger")],
            capture_output=True,
            check=False,
        )
        assert b"Traceback" not in done.stderr
        assert done.returncode in {0, 1}
        assert done.stdout + done.stderr


def test_a_user_without_a_home_gets_a_sentence(tmp_path):
    code = (
        "import os, pwd, sys; os.environ.clear(); pwd.getpwuid = lambda number: {}[number]\n"
        "sys.argv = ['plucky-ledger', *sys.argv[1:]]\n"
        "from plucky_ledger.__main__ import main; main()"
    )
    for words in ("jobs", "disarm 0001", "disarm --all", "take-in x"):
        done = subprocess.run(
            [sys.executable, "-c", code, *words.split()],
            capture_output=True,
            text=True,
            check=False,
        )
        assert "Traceback" not in done.stderr, done.stderr
        assert done.stdout + done.stderr


@pytest.mark.parametrize("command", [["post"], ["put-back", "--everything"], ["changes"]])
def test_the_pc_is_changed_without_the_numerics(demo_path, command):
    """What a customer's PC has installed can switch and put back; plans are what it lacks."""
    job = ["0417", "--ledger", str(demo_path)] if command != ["changes"] else []
    run_it = (
        "import sys\nsys.modules['numpy'] = sys.modules['PySide6'] = None\n"
        f"from plucky_ledger.cli.main import main\nmain({[*command, *job]!r})"
    )
    done = subprocess.run(
        [sys.executable, "-c", run_it], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr


def test_what_a_shell_completes_is_quoted(run, ledger, tmp_path):
    """A label is whatever somebody typed; completed, it is a word and runs nothing."""
    label = f"a $(touch {tmp_path}/ran) 'b"
    run(f"take-in PC --label {shlex.quote(label)}")
    source = CliRunner().invoke(main, ["completion", "bash"]).output
    script = (
        f"{source}\nCOMP_WORDS=(plucky-ledger book --ledger {ledger} a) COMP_CWORD=4\n"
        f"PATH={Path(sys.executable).parent}:$PATH\n_plucky_ledger_completion plucky-ledger\n"
        'eval "words=(${COMPREPLY[0]})"; printf "%s" "${words[0]}"\n'
    )
    done = subprocess.run(["bash", "-c", script], capture_output=True, text=True, check=False)
    assert done.stdout == label, done
    assert not (tmp_path / "ran").exists()


def test_a_job_goes_to_another_bench_and_comes_back(run, demo_path, tmp_path):
    path, here, there = tmp_path / "a.plucky-job", demo_path, tmp_path / "bench.ledger"

    def asked(command, ledger, status=0):
        done = CliRunner().invoke(main, [*command.split(), "--ledger", str(ledger)])
        assert done.exit_code == status, done.output
        return done.output

    assert str(path) in asked(f"export 0417 --out {path}", here)
    assert "taken in as job 0417" in asked(f"import {path} --new", there)
    assert "nothing in it that is not here" in asked(f"import {path}", here)
    asked("decide 0417 tideclock-sync keep --why daily", there)
    asked("decide 0417 tideclock-sync off --why unread", here)
    asked(f"export 0417 --out {path}", there)
    told = asked(f"import {path}", here, status=1)
    assert "Decision · TideClock Sync" in told
    assert "--keep here" in told
    assert "1 thing was new or newer" in asked(f"import {path} --keep file", here)
    assert "nothing in it that is not here" in asked(f"import {path}", here)
    path.write_bytes(path.read_bytes()[:-40])
    assert "no job file" in asked(f"import {path}", here, status=1)


def test_a_statement_on_all_pcs_of_an_owner_begins_with_a_summary(demo_path, tmp_path):
    def asked(*words):
        command = ["statement", *words, "--ledger", str(demo_path)]
        return CliRunner().invoke(main, command)

    path = tmp_path / "all.html"
    owner = "Gullwing Maritime Museum"
    assert asked("--owner", owner, "--leave-out", "details", "--out", str(path)).exit_code == 0
    html = path.read_text()
    summary, *pages = html.split('<h1 class="another">')
    assert owner in summary
    assert summary.count("Your PC is ready") == len(pages) == 2
    assert all("What was changed" in page for page in pages)
    assert "What was done" not in html
    shown = html.partition("<body>")[2]
    for of_the_book in ("ettled", "osting", "encil", "alance", "CPU·s", "interval"):
        assert of_the_book not in shown
    german = asked("0417", "--language", "de", "--out", str(path))
    assert german.exit_code == 0
    assert "Ihr PC ist 22 s früher bereit" in path.read_text()
    assert "The statement is in" in german.output
    assert owner in asked("--owner", "Gullwing").output
    for wrong in (["0417", "--owner", owner], [], ["0417", "--language", "xx"]):
        assert asked(*wrong).exit_code == 2
