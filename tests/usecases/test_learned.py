"""What was learned of programs: anonymous, handed on, shown apart, and never acted on by itself."""

import json
from contextlib import suppress
from dataclasses import astuple, replace
from datetime import UTC, datetime

import pytest
from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st

from plucky_ledger.cli.main import main
from plucky_ledger.core.book.learned import ProgramLearned, learned_of, pooled, together
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.identity import Identity
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.learned_file import LearnedFile, learned_bytes, learned_from, new_key
from plucky_ledger.pages.entries import entries_page
from plucky_ledger.usecases.changing.decisions import decisions_in
from plucky_ledger.usecases.jobs.jobs import find_job, read_job, rewrite_card
from plucky_ledger.usecases.jobs.undo import undo
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import CostsKept
from plucky_ledger.usecases.reading.elsewhere import WorkshopMemory
from plucky_ledger.usecases.reading.learned import (
    forget_learned,
    hand_on,
    learned_here,
    make_key,
    others,
    take_in_learned,
)
from plucky_ledger.wording.entries import card_in_words

WHEN = datetime(2026, 11, 2, 9, 0, tzinfo=UTC)
PROGRAM = ProgramLearned(
    package="tideclock",
    name="TideClock Sync",
    pcs=12,
    boots=60,
    seconds=Estimate(3.1, 2.2, 4.0),
    decided={Decision.OFF: 10, Decision.KEEP: 2},
    put_back=1,
)
FILE = LearnedFile("Sailmaker Lane", "2026-11-20", (PROGRAM,))


def test_what_the_demo_teaches_says_nothing_of_anybody(demo, tmp_path):
    number = find_job(demo, "0417")
    job = read_job(demo, number)
    rewrite_card(demo, number, Card("0417", "Anna's PC", "Anna Example"), job.facts)
    path = tmp_path / "learned.json"
    assert hand_on(demo, path) == len(learned_here(demo)) > 3
    written = path.read_text()
    for somebodys in ("Anna", "Gullwing", "0417", "ticket", "/home/", "prints labels"):
        assert somebodys.casefold() not in written.casefold(), somebodys
    told = learned_from(path.read_bytes(), "learned.json")
    assert told.programs == learned_here(demo)
    (backup,) = [one for one in told.programs if one.package == "saltmarsh-backup"]
    assert backup.seconds.low < 9.7 < backup.seconds.high  # started later, alone
    assert backup.decided == {Decision.LATER: 1}


def test_only_what_everybody_has_is_handed_on(demo):
    job = read_job(demo, find_job(demo, "0417"))

    def decided(**of):
        identity = Identity(**of)
        about = {"entry_id": "a", "name": "Anna's sync", "identity": identity}
        return Decided(decision=Decision.OFF, decided_at=WHEN, **about)

    of = {
        "own": decided(executable="/home/anna/bin/sync", entry_id="sync.desktop"),
        "mixed": decided(package="tideclock", executable="/home/anna/tideclock"),
        "system": decided(executable="/opt/tideclock/bin/tideclock"),
        "entry": decided(entry_id="sync.desktop"),
    }
    programs = learned_of([(job, of)])
    assert {(one.package, one.executable, one.name) for one in programs} == {
        ("tideclock", "", "Anna's sync"),
        ("", "/opt/tideclock/bin/tideclock", "tideclock"),
    }


@given(
    st.lists(
        st.tuples(st.floats(-50, 50), st.floats(0, 5)).map(
            lambda one: Estimate(one[0], one[0] - one[1], one[0] + one[1])
        ),
        min_size=1,
        max_size=12,
    )
)
def test_a_figure_lies_in_its_interval_and_among_those_of_the_pcs(estimates):
    whole = pooled(estimates)
    assert whole.low <= whole.value <= whole.high
    values = [one.value for one in estimates]
    assert min(values) - 1e-9 <= whole.value <= max(values) + 1e-9


@settings(max_examples=50)
@given(
    st.lists(st.floats(-5, 20), max_size=4),
    st.lists(st.tuples(st.floats(0, 20), st.floats(0, 5), st.integers(1, 40)), max_size=4),
)
def test_others_count_for_a_part_of_ones_own(own, told):
    others = [
        ProgramLearned(pcs=pcs, seconds=Estimate(value, value - half, value + half))
        for value, half, pcs in told
    ]
    both = together(own, others)
    if not told or len(own) + len(told) < 2:
        assert both is None
        return
    values = [*own, *(one.seconds.value for one in others)]
    assert min(values) - 1e-9 <= both.value <= max(values) + 1e-9
    assert both.low <= both.value <= both.high
    nearer = together([*own, max(values)], others)  # one PC of one's own says as much
    there = together(own, [*others, ProgramLearned(pcs=4, seconds=Estimate(*[max(values)] * 3))])
    assert there.value == pytest.approx(nearer.value)
    unsure = [replace(one, seconds=Estimate(one.seconds.value, -50, 90)) for one in others]
    one_each = [ProgramLearned(pcs=4, seconds=Estimate(9.0, 9.0, 9.0))]  # as much as a PC here
    alike = pooled([Estimate(value, value, value) for value in (*own, 9.0)])
    assert not own or astuple(together(own, one_each)) == pytest.approx(astuple(alike), abs=1e-6)
    assert together(own, unsure).high - both.value >= both.high - both.value


def test_it_is_shown_beside_ones_own_and_nothing_is_done_by_it(demo, tmp_path):
    number = find_job(demo, "0417")
    path = tmp_path / "theirs.json"
    path.write_bytes(learned_bytes(FILE))
    before = decisions_in(demo, number), learned_here(demo)
    memory, kept = WorkshopMemory(), CostsKept(Analyses())

    def rows():
        boots = read_job(demo, number).opening_boots
        page = entries_page(demo, number, boots, kept, memory)
        return {row.entry.name: row for row in page.rows}

    costs = {name: row.cost for name, row in rows().items()}
    take_in_learned(demo, path)
    told = rows()
    assert {name: row.cost for name, row in told.items()} == costs
    assert (decisions_in(demo, number), learned_here(demo)) == before
    (line,) = [
        text for head, text in card_in_words(told["TideClock Sync"]) if head == "Other workshops"
    ]
    assert line == (
        "Sailmaker Lane, not signed: on 12 PCs; settled 3.1 s (2.2 to 4.0) later; "
        "keep 2, switch off 10; put back 1 time"
    )
    assert told["Brassrail Till"].other_workshops == ()
    assert told["TideClock Sync"].together is None  # nothing was measured here
    agent = ProgramLearned(package="lanternprint", pcs=4, seconds=Estimate(5.6, 4.7, 6.5))
    learned = tmp_path / "agent.json"
    learned.write_bytes(learned_bytes(LearnedFile("Quay Street", "2026-11-21", (agent,))))
    take_in_learned(demo, learned)
    row = rows()["Lanternprint Agent"]  # 6.6 s on the other job
    assert row.together.value == pytest.approx(6.1)
    assert dict(card_in_words(row))["All together"].startswith("settled 6.1 s (")
    undo(demo, None)
    take_in_learned(demo, path)  # in place of what it told before
    assert len(others(demo)) == 1
    undo(demo, None)
    undo(demo, None)
    assert others(demo) == ()
    assert rows()["TideClock Sync"].other_workshops == ()
    take_in_learned(demo, path)
    forget_learned(demo, "Sailmaker Lane")
    assert others(demo) == ()


def test_a_signature_says_who_and_that_nobody_changed_it(tmp_path):
    key = new_key()
    signed = learned_bytes(FILE, key)
    told = learned_from(signed, "a.json")
    assert len(told.signed_by) == 16
    assert learned_from(learned_bytes(FILE, key), "b.json").signed_by == told.signed_by
    assert learned_from(learned_bytes(FILE, new_key()), "c.json").signed_by != told.signed_by
    for before, after in ((b'"pcs": 12', b'"pcs": 13'), (b"Sailmaker", b"Somebody's")):
        with pytest.raises(Refused) as refused:
            learned_from(signed.replace(before, after), "d.json")
        assert refused.value.code is TroubleCode.SIGNATURE_DOES_NOT_FIT
    plain = json.loads(signed)
    del plain["signed"]
    assert learned_from(json.dumps(plain).encode(), "e.json").signed_by == ""
    with pytest.raises(Refused) as refused:
        learned_bytes(FILE, b"no key")
    assert refused.value.code is TroubleCode.NOT_A_KEY
    make_key(tmp_path / "key.pem")
    assert (tmp_path / "key.pem").stat().st_mode & 0o077 == 0
    with pytest.raises(Refused):
        make_key(tmp_path / "key.pem")


@settings(max_examples=200)
@given(st.binary(max_size=200), st.integers(0, 2000), st.integers(0, 255))
def test_any_file_is_read_or_refused(data, at, byte):
    whole = bytearray(learned_bytes(FILE))
    whole[at % len(whole)] = byte
    for one in (data, bytes(whole)):
        with suppress(Refused):
            learned_from(one, "a.json")


def test_on_the_command_line_it_is_handed_from_one_to_the_other(demo_path, tmp_path):
    def asked(*words):
        return CliRunner().invoke(main, ["learned", *map(str, words), "--ledger", str(demo_path)])

    out, key = tmp_path / "learned.json", tmp_path / "key.pem"
    assert asked("--new-key", key).exit_code == 0
    assert "no owner, no PC" in asked("--out", out, "--sign", key).output
    assert ", signed by " in asked("--take", out).output
    listed = asked().output
    assert listed.count("saltmarsh-backup") == 2
    assert "decided" in listed
    assert asked("--sign", key).exit_code == 2
    assert asked("--forget", "nobody").exit_code == 1


def test_identity_of_what_others_told_is_matched_as_among_jobs():
    program = replace(PROGRAM, package="", executable="/opt/tideclock/bin/tideclock")
    assert program.identity.matches(Identity(executable="/opt/tideclock/bin/tideclock"))
    assert not program.identity.matches(Identity(executable="/opt/tideclock/bin/other"))
