"""The ledger file: what is saved stays saved, and what is no ledger stays untouched."""

import errno
import os
import signal
import sqlite3
import subprocess
import sys
import threading
from contextlib import suppress
from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import event, text
from sqlalchemy.exc import IntegrityError

from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.facts import Drive, DriveKind, Facts
from plucky_ledger.core.pc.which import THIS_OR_ANOTHER
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.pages.shelf import shelf
from plucky_ledger.store import boots as stored_boots
from plucky_ledger.store import jobs as stored
from plucky_ledger.store import kept_in_file, ledger_file
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import redo, step, undo
from plucky_ledger.usecases.jobs.jobs import read_job, read_jobs
from plucky_ledger.usecases.jobs.opening import is_salvaged, open_as_far_as_readable, repair
from plucky_ledger.usecases.jobs.shelf import read_shelf
from plucky_ledger.wording.trouble import trouble_in_words
from tests.helpers.strategies import boots
from tests.helpers.trouble import told
from tests.helpers.users import needs_administrator

WHEN = datetime(2026, 11, 2, 9, 0, tzinfo=UTC)


def add_job(ledger, card=Card("0001", "PC"), facts=Facts()):  # noqa: B008 frozen values
    with step(ledger, StepCode.TAKE_IN, None, title=card.title) as session:
        return stored.add_job(session, card, facts, THIS_OR_ANOTHER, WHEN)


def add_boot(ledger, number, posting, boot, *recorded):
    with step(ledger, StepCode.ADD_BOOT, number) as session:
        return stored_boots.add_boot(session, number, posting, boot, *recorded)


def put_posting(ledger, number, posting):
    with step(ledger, StepCode.PENCIL, number) as session:
        return stored.write_posting(session, number, posting)


def change_job(ledger, number, card, facts=Facts()):  # noqa: B008 frozen values
    with step(ledger, StepCode.CHANGE_CARD, number) as session:
        job = stored.read_job(session, number)
        stored.write_job(session, replace(job, card=card, facts=facts))


def recordings(ledger):
    with ledger.session() as session:
        return stored_boots.count_recordings(session)


texts = st.text(st.characters(exclude_categories=["Cs"]), max_size=30)
facts = st.builds(
    Facts,
    os_release=texts,
    kernel=texts,
    cpu_model=texts,
    cores=st.none() | st.integers(1, 64),
    memory_bytes=st.none() | st.integers(0, 2**50),
    drives=st.lists(
        st.builds(
            Drive,
            texts,
            st.sampled_from(DriveKind),
            st.integers(0, 2**53),
            st.none() | st.integers(0, 2**53),
        ),
        max_size=3,
    ).map(tuple),
    uptime_seconds=st.none() | st.floats(0, 1e9),
)
changes = st.lists(
    st.builds(Change, kind=st.sampled_from(ChangeKind), what=texts, why=texts),
    min_size=1,
    max_size=3,
).map(tuple)


@settings(max_examples=25)
@given(card=st.builds(Card, texts, texts, texts, texts), has=facts, done=changes, boot=boots)
def test_round_trip_loses_nothing(tmp_path_factory, card, has, done, boot):
    """A job, its facts, a posting and a boot come back equal from a closed and reopened file."""
    path = tmp_path_factory.mktemp("ledger") / "w.ledger"
    with Ledger(path) as ledger:
        number = add_job(ledger, card, has)
        posting = put_posting(ledger, number, Posting(number=0, changes=done, posted_at=WHEN))
        add_boot(ledger, number, posting, boot, "id", b"recording")
    with Ledger(path) as ledger:
        job = read_job(ledger, number)
        assert (job.card, job.facts) == (card, has)
        (kept,) = job.postings
        assert (kept.changes, kept.posted_at) == (done, WHEN)
        assert replace(kept.boots[0], number=boot.number, uuid="") == boot
        with ledger.session() as session:
            found = stored_boots.recording_of(session, kept.boots[0].number)
        assert found == b"recording"


def several_steps(ledger):
    """Take in, write down, record, set aside: one state after each step."""
    states = [read_jobs(ledger)]

    def note():
        states.append(read_jobs(ledger))

    number = add_job(ledger)
    note()
    boot = _boot()
    first = add_boot(ledger, number, None, boot, "a", b"one")
    note()
    put_posting(
        ledger, number, Posting(number=0, changes=(Change(kind=ChangeKind.SWAP, what="swap"),))
    )
    note()
    (pencilled,) = read_job(ledger, number).postings
    put_posting(ledger, number, replace(pencilled, posted_at=WHEN))
    note()
    add_boot(ledger, number, pencilled.number, boot, "b", b"two")
    note()
    kept = replace(boot, number=first, set_aside="updates")
    with step(ledger, StepCode.SET_BOOT_ASIDE, number) as session:
        stored_boots.write_boot(session, kept)
    note()
    change_job(ledger, number, Card("0002", "Other"), Facts(os_release="Some Linux"))
    note()
    return states


def _boot():
    return Boot(
        number=0,
        started_at=WHEN,
        how=How.TYPED,
        marks={},
        readings={Measure.SETTLED: Reading(61.5)},
    )


def test_every_step_is_undone_and_done_again_exactly(ledger):
    states = several_steps(ledger)
    ((number,),) = ({job.number for job in states[-1]},)
    belongs_to = [None, *[number] * (len(states) - 2)]
    for job, state in zip(reversed(belongs_to), reversed(states[:-1]), strict=True):
        assert undo(ledger, job) is not None
        assert read_jobs(ledger) == state
    assert undo(ledger, number) is undo(ledger, None) is None
    for job, state in zip(belongs_to, states[1:], strict=True):
        assert redo(ledger, job) is not None
        assert read_jobs(ledger) == state
    assert redo(ledger, number) is redo(ledger, None) is None


def test_undoing_a_recorded_boot_keeps_its_recording(ledger):
    number = add_job(ledger)
    add_boot(ledger, number, None, _boot(), "a", b"one")
    undo(ledger, number)
    assert read_job(ledger, number).opening_boots == ()
    assert recordings(ledger) == 1


def test_a_new_step_ends_what_could_be_done_again(ledger):
    number = add_job(ledger)
    add_boot(ledger, number, None, _boot())
    undo(ledger, number)
    change_job(ledger, number, Card("0009", "PC"), Facts())
    assert redo(ledger, number) is None
    assert read_job(ledger, number).opening_boots == ()


def test_a_step_that_fails_half_way_leaves_nothing(ledger):
    """A posting of a job that does not exist is refused by the file itself."""
    with pytest.raises(IntegrityError):
        put_posting(
            ledger, 99, Posting(number=0, changes=(Change(kind=ChangeKind.SWAP, what="swap"),))
        )
    assert read_jobs(ledger) == ()
    assert undo(ledger, 99) is undo(ledger, None) is None


@pytest.mark.in_a_file
def test_a_full_disk_costs_the_last_step_only(ledger):
    number = add_job(ledger)

    @event.listens_for(ledger.kept.engine, "connect")
    def _small(connection, _record):
        pages = connection.execute("PRAGMA page_count").fetchone()[0]
        connection.execute(f"PRAGMA max_page_count = {pages}")

    with told(r"full\. The last step was not saved"):
        add_boot(ledger, number, None, _boot(), "a", os.urandom(200_000))
    assert read_job(ledger, number).opening_boots == ()
    assert recordings(ledger) == 0


@pytest.mark.parametrize("content", [b"no ledger at all, but some text\n" * 9, os.urandom(4096)])
def test_what_is_no_ledger_is_left_untouched(tmp_path, content):
    path = tmp_path / "w.ledger"
    path.write_bytes(content)
    with told("not a ledger"):
        Ledger(path)
    assert path.read_bytes() == content


def test_a_database_of_another_program_is_left_untouched(tmp_path):
    path = tmp_path / "w.ledger"
    connection = sqlite3.connect(path)
    connection.execute("CREATE TABLE songs (title)")
    connection.close()
    before = path.read_bytes()
    with told("some other program"):
        Ledger(path)
    assert path.read_bytes() == before


def test_a_newer_ledger_is_refused_untouched(demo_path):
    connection = sqlite3.connect(demo_path)
    connection.execute("UPDATE alembic_version SET version_num = '9999'")
    connection.commit()
    connection.close()
    before = demo_path.read_bytes()
    with told("newer Plucky Ledger"):
        Ledger(demo_path)
    assert demo_path.read_bytes() == before


def test_a_folder_that_does_not_let_us_write(tmp_path):
    """A file stands where the folder should be, which stops even an administrator."""
    (tmp_path / "file").write_text("")
    with told("Nothing was changed"):
        Ledger(tmp_path / "file" / "w.ledger")


def test_the_second_to_open_a_ledger_may_look_but_not_write(demo_path):
    with Ledger(demo_path) as first, Ledger(demo_path) as second:
        assert "another window" in trouble_in_words(second.read_only_because)
        job, *_ = read_jobs(second)
        with told("may not be written to"):
            change_job(second, job.number, Card("1", "x"), Facts())
        assert read_job(first, job.number).card == job.card
    with Ledger(demo_path) as third:
        assert third.read_only_because is None


def test_a_ledger_is_private_to_its_user(tmp_path):
    path = tmp_path / "deep" / "w.ledger"
    Ledger(path).close()
    assert path.stat().st_mode & 0o077 == 0


def test_killed_while_writing_it_keeps_all_that_was_said_to_be_saved(tmp_path):
    """A program that saves boot after boot is killed outright; every boot it told of is there."""
    path = tmp_path / "w.ledger"
    code = (
        "import sys\nfrom pathlib import Path\n"
        "from plucky_ledger.store.ledger import Ledger\n"
        "from tests.store.test_ledger import _boot, add_boot, add_job\n"
        "ledger = Ledger(Path(sys.argv[1]))\n"
        "n = add_job(ledger)\n"
        "for i in range(10_000):\n"
        "    add_boot(ledger, n, None, _boot(), f'b{i}', b'r%d' % i * 5000)\n"
        "    print(i, flush=True)\n"
    )
    writer = subprocess.Popen([sys.executable, "-c", code, str(path)], stdout=subprocess.PIPE)
    assert writer.stdout is not None
    said = [writer.stdout.readline() for _ in range(12)]
    writer.send_signal(signal.SIGKILL)
    rest = writer.communicate()[0].split(b"\n")
    saved = int((rest[-2] if len(rest) > 1 else said[-1]).strip()) + 1
    with Ledger(path) as ledger:
        job, *_ = read_jobs(ledger)
        assert len(job.opening_boots) in {saved, saved + 1}
        with ledger.session() as session:
            assert session.scalar(text("PRAGMA integrity_check")) == "ok"


@pytest.mark.in_a_file
def test_a_backup_is_made_before_a_migration(demo_path, monkeypatch):
    """An older file is copied aside before anything in it changes."""
    before = demo_path.read_bytes()
    changed = []
    monkeypatch.setattr(kept_in_file, "NEWEST", "9999")
    monkeypatch.setattr(kept_in_file, "bring_up_to_date", lambda connection: changed.append(1))
    Ledger(demo_path).close()
    assert changed == [1]
    assert demo_path.with_name("demo.ledger.before-9999").read_bytes() == before


def killed_in_the_middle_of_a_large_save(path):
    """Some megabytes are in the file already, and the journal to take them back lies beside it."""
    code = (
        "import os, signal, sys\nfrom pathlib import Path\n"
        "from sqlalchemy import text\n"
        "from plucky_ledger.store.ledger import Ledger\n"
        "from tests.store.test_ledger import _boot, add_boot, add_job, stored_boots\n"
        "ledger = Ledger(Path(sys.argv[1]))\n"
        "n = add_job(ledger)\n"
        "add_boot(ledger, n, None, _boot(), 'kept', os.urandom(3_000_000))\n"
        "with ledger.session() as session:\n"
        "    session.execute(text('PRAGMA cache_size = 10'))\n"
        "    session.execute(text(\"UPDATE jobs SET title = 'half'\"))\n"
        "    stored_boots.add_boot(session, n, None, _boot(), 'lost', os.urandom(5_000_000))\n"
        "    os.kill(os.getpid(), signal.SIGKILL)\n"
    )
    done = subprocess.run([sys.executable, "-c", code, str(path)], check=False)
    assert done.returncode == -signal.SIGKILL
    assert path.with_name(path.name + "-journal").stat().st_size > 0


def test_killed_in_a_large_save_it_opens_as_it_was_before(tmp_path):
    path = tmp_path / "w.ledger"
    killed_in_the_middle_of_a_large_save(path)
    with Ledger(path) as ledger:
        assert ledger.read_only_because is None
        (job,) = read_jobs(ledger)
        assert job.card.title == "PC"
        assert recordings(ledger) == len(job.opening_boots) == 1
        add_boot(ledger, job.number, None, _boot(), "next", b"more")
        assert recordings(ledger) == 2


def test_another_file_in_its_place_is_noticed_before_a_write(tmp_path, demo_path):
    path = tmp_path / "w.ledger"
    with Ledger(path) as ledger:
        add_job(ledger)
        demo_path.replace(path)
        before = path.read_bytes()
        with told("no longer the file that was opened"):
            add_job(ledger, Card("0002", "Other"))
        path.unlink()
        with told("no longer the file that was opened"):
            read_jobs(ledger)
        assert not path.exists()
    assert before


@needs_administrator
@pytest.mark.parametrize("whose", ["file", "folder"])
def test_the_administrator_opens_no_ledger_of_somebody_elses(tmp_path, whose):
    home = tmp_path / "home"
    home.mkdir()
    path = home / "w.ledger"
    Ledger(path).close()
    path.with_name("w.ledger.lock").unlink()
    os.chown(path if whose == "file" else home, 1234, 1234)
    before = path.read_bytes()
    with told("belongs to 1234"):
        Ledger(path)
    assert [one.name for one in home.iterdir()] == ["w.ledger"]
    assert path.read_bytes() == before


@needs_administrator
def test_the_administrator_begins_no_ledger_by_a_link_of_somebody_elses(tmp_path, users_home):
    """A user's link leads to where only the administrator may write, and nothing is there yet."""
    aim = tmp_path / "aim.ledger"
    (users_home / "w.ledger").symlink_to(aim)
    (tmp_path / "way.ledger").symlink_to(users_home / "w.ledger")
    (users_home / "folder").symlink_to(tmp_path)
    (users_home / "roots").mkdir()  # made by root, where its owner can put another in its place
    for named in (
        users_home / "w.ledger",
        tmp_path / "way.ledger",
        users_home / "new.ledger",
        users_home / "folder/x.ledger",
        users_home / "deep/er/x.ledger",
        users_home / "roots/x.ledger",
    ):
        with told("belongs to 1234|out of reach"):
            Ledger(named)
    assert {path.name for path in tmp_path.iterdir()} == {"way.ledger"}
    assert {path.name for path in users_home.iterdir()} == {"w.ledger", "folder", "roots"}
    (tmp_path / "own.ledger").symlink_to(aim)
    Ledger(tmp_path / "own.ledger").close()
    assert aim.exists()


@pytest.mark.parametrize("ending", [".lock", ".before-0008"])
def test_links_beside_a_ledger_lead_nowhere(tmp_path, demo_path, monkeypatch, ending):
    """In a folder that everybody may write in, somebody has put one there."""
    secret = tmp_path / "secret"
    secret.write_bytes(b"somebody's")
    demo_path.with_name(demo_path.name + ending).symlink_to(secret)
    monkeypatch.setattr(kept_in_file, "NEWEST", "9999")
    monkeypatch.setattr(kept_in_file, "bring_up_to_date", lambda _connection: None)
    with suppress(Trouble):
        Ledger(demo_path).close()
    assert secret.read_bytes() == b"somebody's"


def test_two_ways_to_one_ledger_have_one_writer(tmp_path, demo_path):
    way = tmp_path / "way.ledger"
    way.symlink_to(demo_path)
    with Ledger(demo_path), Ledger(way) as second:
        assert "another window" in trouble_in_words(second.read_only_because)


@pytest.mark.parametrize("way", ["hard link", "no lock file"])
def test_one_writer_whatever_names_a_ledger_has(tmp_path, demo_path, way):
    other = demo_path
    with Ledger(demo_path) as first:
        if way == "hard link":
            other = tmp_path / "second.ledger"
            other.hardlink_to(demo_path)
        else:
            demo_path.with_name(demo_path.name + ".lock").unlink()
        with Ledger(other) as second:
            assert "another window" in trouble_in_words(second.read_only_because)
            assert len(read_jobs(second)) == len(read_jobs(first))
            add_job(first, Card("0999", "goes on"))
    with Ledger(other) as third:
        assert third.read_only_because is None


def test_a_folder_without_locks_is_only_looked_at(demo_path, monkeypatch):
    """As some network file systems are."""

    def without(*_):
        raise OSError(errno.ENOLCK, "No locks available")

    monkeypatch.setattr(ledger_file.fcntl, "flock", without)
    with Ledger(demo_path) as ledger:
        assert "no file locks" in trouble_in_words(ledger.read_only_because)
        assert read_jobs(ledger)
        with told("may not be written to"):
            add_job(ledger)


@pytest.mark.parametrize(
    "part",
    [
        "CREATE TRIGGER quiet AFTER INSERT ON steps BEGIN DELETE FROM jobs; END",
        "CREATE VIEW theirs AS SELECT * FROM jobs",
        "CREATE TABLE theirs (x)",
    ],
)
def test_what_no_ledger_holds_is_never_written_beside(demo_path, part):
    connection = sqlite3.connect(demo_path)
    connection.execute(part)
    connection.commit()
    connection.close()
    before = demo_path.read_bytes()
    with Ledger(demo_path) as ledger:
        assert "which no ledger of Plucky Ledger holds" in trouble_in_words(
            ledger.read_only_because
        )
        assert len(read_jobs(ledger)) == 2
        with told("may not be written to"):
            add_job(ledger)
    assert demo_path.read_bytes() == before


@pytest.mark.parametrize(
    ("column", "value"),
    [
        ("readings", '{"settled":{"value":1e308}}'),
        ("readings", '{"settled":{"value":-1e12}}'),
        ("marks", '{"settled":1e300}'),
    ],
)
def test_a_figure_that_none_can_be_is_refused_at_the_door(demo_path, column, value):
    damaged_row(demo_path, "boots", column, value)
    with open_as_far_as_readable(demo_path) as ledger:
        assert "1 damaged row is lost" in trouble_in_words(ledger.read_only_because)
        assert all(np.isfinite(spine.saved or 0) for spine in shelf(read_shelf(ledger)))


def test_a_save_cut_short_where_nothing_may_be_written_is_said_as_it_is(tmp_path):
    path = tmp_path / "w.ledger"
    killed_in_the_middle_of_a_large_save(path)
    assert path.with_name("w.ledger-journal").stat().st_size
    with told("interrupted, and it cannot be repaired where nothing may be written"):
        Ledger(path, only_look_because=Trouble(TroubleCode.LEDGER_READ_ONLY, path=str(path)))


def test_closing_waits_for_no_arithmetic_and_saves_nothing_of_it(tmp_path):
    """Somebody computes in the middle of a step, with no statement to be interrupted."""
    path = tmp_path / "w.ledger"
    ledger = Ledger(path)
    number = add_job(ledger)
    computing, go_on = threading.Event(), threading.Event()
    refused = []

    def long_step():
        try:
            with step(ledger, StepCode.CHANGE_CARD, number) as session:
                session.execute(text("UPDATE jobs SET title = 'half'"))
                computing.set()
                go_on.wait(30)
        except Trouble as trouble:
            refused.append(trouble.code)

    thread = threading.Thread(target=long_step)
    thread.start()
    assert computing.wait(30)
    ledger.close(0.1)
    with Ledger(path) as second:  # its lock is kept as long as it may still write
        assert second.read_only_because is not None
    go_on.set()
    thread.join(30)
    assert refused == [TroubleCode.LEDGER_CLOSED]
    with Ledger(path) as third:
        assert third.read_only_because is None
        assert [job.card.title for job in read_jobs(third)] == ["PC"]


def damaged_row(path, table, column, value):
    connection = sqlite3.connect(path)
    connection.execute(f"UPDATE {table} SET {column} = ? WHERE rowid = 2", (value,))
    connection.commit()
    connection.close()


@pytest.mark.parametrize(
    ("table", "column", "value", "lost"),
    [
        ("jobs", "facts", "{", 1),
        ("jobs", "title", b"\xff", 1),
        ("jobs", "taken_in_at", "soon", 1),
        ("boots", "readings", "[]", 1),
        ("boots", "started_at", "9999-12-31T23:59:59+00:00", 1),
        ("boots", "context", b"\xff\xfe", 1),
        ("decisions", "decided", "null", 1),
        ("recordings", "data", b"not what it was", 1),
        ("alembic_version", "version_num", "", 0),
    ],
)
def test_a_damaged_ledger_opens_as_far_as_it_can_be_read(
    demo_path, tmp_path, table, column, value, lost
):
    """What is damaged is lost and said; everything else is there, and in a repaired copy."""
    with Ledger(demo_path) as ledger:
        before = read_jobs(ledger)
    if table == "alembic_version":
        damaged_row(demo_path, table, column, value)
        connection = sqlite3.connect(demo_path)
        connection.execute("UPDATE alembic_version SET version_num = 'x'")
        connection.commit()
        connection.close()
    else:
        damaged_row(demo_path, table, column, value)
    data = demo_path.read_bytes()
    if table != "recordings":
        with open_as_far_as_readable(demo_path) as ledger:
            assert is_salvaged(ledger)
            because = trouble_in_words(ledger.read_only_because)
            assert str(demo_path) in because
            assert f"{lost} damaged row" in because
            with told("may not be written to"):
                add_job(ledger)
    repaired = tmp_path / "repaired.ledger"
    assert repair(demo_path, repaired) == lost
    with told("exists already"):
        repair(demo_path, repaired)
    with Ledger(repaired) as ledger:
        jobs = read_jobs(ledger)
        assert len(jobs) == len(before)
        boots = sum(len(job.boots) for job in jobs)
        assert sum(len(job.boots) for job in before) - boots == (table == "boots")
        add_job(ledger, Card("0999", "goes on"))
    assert demo_path.read_bytes() == data


def test_a_ledger_that_lacks_a_table_opens_without_it(demo_path):
    connection = sqlite3.connect(demo_path)
    connection.execute("DROP TABLE decisions")
    connection.commit()
    connection.close()
    with open_as_far_as_readable(demo_path) as ledger:
        assert is_salvaged(ledger)
        assert len(read_jobs(ledger)) == 2


def test_nothing_readable_is_refused(tmp_path, demo_path):
    data = bytearray(demo_path.read_bytes())
    data[100:] = b"\0" * (len(data) - 100)
    demo_path.write_bytes(data)
    with told("not a ledger, or it is damaged"):
        open_as_far_as_readable(demo_path)


def test_a_column_whose_name_is_no_text_any_more_loses_its_table_alone(demo_path):
    data = bytearray(demo_path.read_bytes())
    schema = data.rindex(b"CREATE TABLE postings")
    data[data.index(b"uuid VARCHAR", schema) + 4] = 0xA0
    demo_path.write_bytes(data)
    with open_as_far_as_readable(demo_path) as ledger:
        assert is_salvaged(ledger)
        jobs = read_jobs(ledger)
    assert len(jobs) == 2
    assert all(job.opening_boots and not job.postings for job in jobs)
