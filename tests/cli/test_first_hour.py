"""What somebody meets who types commands for the first time."""

import pytest

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.abilities import Abilities, RecordHow
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.recording.pc import Pc
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.changing.decisions import decisions_in
from plucky_ledger.usecases.jobs.demo import forget_demo
from plucky_ledger.usecases.jobs.jobs import find_job, read_jobs, take_in
from plucky_ledger.usecases.recording import pcs
from plucky_ledger.usecases.recording.boots import add_typed
from tests.cli.test_commands import run


def test_a_ledger_named_before_the_command_is_the_one_that_is_used(demo_path):
    assert "Ticket-desk PC" in run("--ledger", demo_path, "jobs").output
    assert "Opening round" in run("--ledger", demo_path, "book", "0398").output


@pytest.mark.parametrize(
    ("words", "meant"),
    [
        (("book", "417"), "Perhaps 0417 is meant."),
        (("book", "ticket desk"), "Perhaps 0417 is meant."),
        (("decide", "0417", "decchand", "off"), "Perhaps Deckhand Updater is meant."),
        (
            ("decide", "0417", "Deckhand Updater", "off", "--how", "away"),
            "What it can be: on, off, later, off_for_good, as_delivered.",
        ),
    ],
)
def test_what_is_not_there_names_what_may_be_meant(demo_path, words, meant):
    told = run(*words, "--ledger", demo_path)
    assert told.exit_code == 1
    assert meant in told.output


def test_entries_are_listed_with_the_ids_that_commands_take(demo_path):
    told = run("entries", "0417", "--ledger", demo_path).output
    for entry_id in ("deckhand-updater", "harbour-guard.service", "brassrail-till"):
        assert f"· {entry_id}" in told
    assert "works later: " in told, "what starts later is not said to be out of sight"


def test_what_was_put_back_is_decided_no_more(demo_path):
    run("post", "0417", "--ledger", demo_path)
    with Ledger(demo_path) as ledger:
        assert decisions_in(ledger, find_job(ledger, "0417"))["deckhand-updater"].decision is (
            Decision.OFF
        )
    run("put-back", "0417", "--line", 6, "--ledger", demo_path)
    with Ledger(demo_path) as ledger:
        decided = decisions_in(ledger, find_job(ledger, "0417"))
    assert "deckhand-updater" not in decided
    assert decided["brassrail-till"].decision is Decision.KEEP, "somebody said that"


class ArmedPc(Pc):
    """Can be armed, and is told so."""

    def __init__(self):
        super().__init__(WhichPc(PcKind.REAL, "bench"))
        self.armed = []

    abilities = Abilities(record=RecordHow.AT_ONCE, levels=(Level.AUTOSTART,), facts=True)

    def arm(self, _folder, boots, level, _label, then):
        self.armed.append((boots, level, then))


@pytest.mark.parametrize("arm", [False, True])
def test_a_posting_says_that_nothing_records_the_next_boots_or_sees_to_it(
    ledger, monkeypatch, tmp_path, arm
):
    pc = ArmedPc()
    number, path = take_in(ledger, Card("", "Bench PC"), Facts(), pc.which), ledger.path
    add_typed(ledger, number, {Measure.SETTLED: 61.0})
    ledger.close()
    monkeypatch.setattr(pcs, "this_pc", lambda: pc)
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    run("pencil", "0001", "more memory", "--ledger", path)
    told = run("post", "0001", "--by-hand", *(["--arm"] if arm else []), "--ledger", path).output
    assert "Posted" in told
    if arm:
        ((boots, _level, then),) = pc.armed
        assert (boots, then.look_seconds) == (3, 300.0)
        assert "{n} of {boots}" in then.notices[0]
        assert "Armed for 3 boots" in told
    else:
        assert "plucky-ledger arm 0001 --restart" in told


def test_the_demo_is_begun_anew_and_no_real_pc_is_lost_with_it(demo_path):
    assert forget_demo(demo_path) is None
    assert not demo_path.exists()
    with Ledger(demo_path) as ledger:
        take_in(ledger, Card("", "Till PC"), Facts())
    kept = forget_demo(demo_path)
    assert not demo_path.exists()
    with Ledger(kept) as ledger:
        assert [job.card.title for job in read_jobs(ledger)] == ["Till PC"]
