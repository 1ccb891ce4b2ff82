"""The Entries lens without a screen: costs, decisions, the plan, what the workshop remembers."""

from dataclasses import replace

import pytest

from plucky_ledger.core.book.job import Card, EntryState
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.cost.cost import Grade, GradeThresholds
from plucky_ledger.core.entries.decisions import Decision, Identity
from plucky_ledger.core.measures import Measure
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.pages.book import book_page
from plucky_ledger.pages.entries import entries_data, entries_page, filtered
from plucky_ledger.pages.lanes import lanes_page
from plucky_ledger.pages.load import (
    By,
    LoadQuestion,
    Span,
    load_answer,
    save_stock_profile,
)
from plucky_ledger.store import entries as stored_entries
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.undo import redo, undo
from plucky_ledger.usecases.boots import add_timed, timeline_of
from plucky_ledger.usecases.costs import CostsKept, expected_of, round_costs
from plucky_ledger.usecases.decisions import (
    decide,
    decisions_of,
    give_reason,
    set_thresholds,
    thresholds,
    type_entries,
    write_finding,
)
from plucky_ledger.usecases.jobs import Refused, take_in
from plucky_ledger.usecases.postings import post, rub_out
from plucky_ledger.usecases.programs_set_aside import bring_program_back, set_program_aside
from plucky_ledger.usecases.workshop import Workshop, in_words
from tests.helpers.runs import entry


@pytest.fixture
def job(demo):
    return lambda: next(one for one in stored.all_jobs(demo) if one.card.label == "0417")


@pytest.fixture
def page(demo, job):
    return entries_page(entries_data(demo, job(), job().opening_boots))


def row(page, name):
    return next(one for one in (*page.rows, *page.system_rows) if one.name == name)


def entry_of(page, name):
    return row(page, name).entry


def test_costliest_first_with_whiskers_grades_and_the_system_folded(page):
    costs = [one.seconds.value for one in page.rows if one.seconds]
    assert costs == sorted(costs, key=lambda value: -round(value, 1))
    assert page.most_seconds >= max(one.seconds.high for one in page.rows if one.seconds)
    assert row(page, "Saltmarsh Backup").grade is Grade.HEAVY
    assert row(page, "Quaybell Helper").grade in {Grade.LIGHT, Grade.NEGLIGIBLE}
    gone = row(page, "Windlass Toolbar")
    assert (gone.grade, gone.memory) == (Grade.UNGRADED, "")
    assert gone.cost == "never seen running: its program is gone"
    assert {"left behind", "sign-in"} <= set(gone.about.split(" · "))
    assert all(one.entry.part_of_system for one in page.system_rows)
    assert "8 parts of the system" in page.system_line


def test_the_card_tells_command_package_evidence_and_what_other_jobs_taught(page):
    card = dict(row(page, "Lanternprint Agent").card)
    assert card["Runs"] == "/opt/lanternprint/agent --tray"
    assert card["Belongs to"] == "lanternprint 11.0"
    assert "later settled" in card["In 5 boots"]
    assert card["Boot by boot"].count(",") == 4
    told = card["On other jobs"]
    assert "on 1 of 1 other job" in told
    assert "labels are printed in the office" in told
    assert "s typically when measured alone" in told


def test_filters_by_text_kind_owner_and_decision(page):
    assert [r.name for r in filtered(page.rows, "label")] == ["Lanternprint Agent"]
    assert {r.entry.kind for r in filtered(page.rows, kind="services")} == {"system service"}
    assert {r.entry.owner for r in filtered(page.rows, owner="of the user")} == {"user"}
    pencilled = {r.name for r in filtered(page.rows, decided="pencilled")}
    assert pencilled == {"Deckhand Updater", "Foghorn Notify"}
    assert [r.name for r in filtered(page.rows, decided="to look up")] == ["TideClock Sync"]
    decided = filtered(page.rows, decided="decided")
    assert len(decided) + len(filtered(page.rows, decided="not decided")) == len(page.rows)


def test_decisions_pencil_changes_and_taking_them_back_rubs_them_out(demo, job, page):
    pencilled = {c.entry_id: c.new_state for c in job().pencilled.changes}
    assert pencilled == {"deckhand-updater": EntryState.OFF, "foghorn-notify": EntryState.LATER}
    decide(demo, job(), [entry_of(page, "Brassrail Till")], Decision.OFF, "closed today")
    assert len(job().pencilled.changes) == 3
    for name in ("Brassrail Till", "Deckhand Updater", "Foghorn Notify"):
        decide(demo, job(), [entry_of(page, name)], Decision.KEEP)
    assert job().pencilled is None
    assert decisions_of(demo, job())["brassrail-till"].reason == "closed today"
    # An entry that is off is kept only by switching it on again.
    decide(demo, job(), [entry_of(page, "Gullwatch Indexer")], Decision.KEEP, "wanted after all")
    (change,) = job().pencilled.changes
    assert (change.new_state, change.what) == (
        EntryState.ON, "Gullwatch Indexer switched on again")  # fmt: skip


def test_several_entries_are_one_step_that_can_be_undone(demo, job, page):
    before = decisions_of(demo, job()), job()
    chosen = [entry_of(page, name) for name in ("Brassrail Till", "TideClock Sync")]
    decide(demo, job(), chosen, Decision.OFF)
    after = decisions_of(demo, job()), job()
    undo(demo)
    assert (decisions_of(demo, job()), job()) == before
    redo(demo)
    assert (decisions_of(demo, job()), job()) == after


def test_guarded_entries_need_a_second_deliberate_step(demo, job, page):
    for name, why in (("Harbour Guard", "protect the PC"), ("wireless setup", "of the system")):
        with pytest.raises(Refused, match=why):
            decide(demo, job(), [entry_of(page, name)], Decision.OFF)
        decide(demo, job(), [entry_of(page, name)], Decision.KEEP)
        decide(demo, job(), [entry_of(page, name)], Decision.OFF, deliberate=True)
        assert decisions_of(demo, job())[entry_of(page, name).entry_id].decision is Decision.OFF
    with pytest.raises(Refused, match="Choose an entry"):
        decide(demo, job(), [], Decision.KEEP)


def test_what_was_rubbed_out_is_decided_no_longer_but_its_finding_stays(demo, job, page):
    write_finding(demo, job(), "deckhand-updater", "looks for updates every hour")
    rub_out(demo, job())
    assert "foghorn-notify" not in decisions_of(demo, job())
    kept = decisions_of(demo, job())["deckhand-updater"]
    assert (kept.decision, kept.finding) == (Decision.LOOK_UP, "looks for updates every hour")
    with pytest.raises(Refused, match="look up"):
        write_finding(demo, job(), "quaybell-nowhere", "x")


def test_the_plan_counts_overlaps_once_and_the_book_expects_it(demo, job):
    kept = CostsKept()
    data = entries_data(demo, job(), job().rounds[-2], kept)
    plan = data.plan
    assert plan.settled.low < 41.5 < plan.settled.high
    told = entries_page(data)
    assert told.plan_strong.startswith(f"Expected {plan.settled.value:.1f} s settled")
    assert "1 off, 1 later" in told.plan
    assert "overlaps counted once" in told.plan
    assert row(told, "Saltmarsh Backup").cost == "starts later than these recordings go"
    expected = expected_of(demo, job(), kept)
    assert expected == plan
    pencilled = book_page(job(), Measure.SETTLED, expected).rows[-1]
    assert pencilled.remark.startswith("expected ")
    assert pencilled.expected == plan.settled.value
    assert book_page(job(), Measure.PROCESSES, expected).rows[-1].expected is None
    post(demo, job())
    assert expected_of(demo, job(), kept) is None


def test_costs_are_kept_until_what_they_rest_on_changes(demo, job):
    kept, boots = CostsKept(), job().opening_boots
    first = kept.of(demo, job().number, boots)
    assert kept.of(demo, job().number, boots) is first
    set_program_aside(demo, job(), "gullwatch-indexer", "only here for the test")
    assert kept.of(demo, job().number, job().opening_boots) is not first


def test_lanes_show_the_cost(demo, job):
    boot = job().opening_boots[0]
    costs = round_costs(demo, job().number, job().opening_boots).costs
    lanes = lanes_page(boot, timeline_of(demo, boot), costs).lanes
    shown = {lane.entry_id: lane.cost for lane in lanes}
    assert shown["saltmarsh-backup"].endswith(" s")
    assert shown["sign-in-screen.service"] == ""


def test_a_program_set_aside_leaves_every_figure_and_comes_back(demo, job):
    before = job()
    with pytest.raises(Refused, match="Say why"):
        set_program_aside(demo, before, "saltmarsh-backup", " ")
    set_program_aside(demo, before, "saltmarsh-backup", "a copy made while we measured")
    now = job()
    changed = [
        (a.readings[Measure.CPU_WORK].value, b.readings[Measure.CPU_WORK].value)
        for a, b in zip(before.opening_boots, now.opening_boots, strict=True)
    ]
    assert all(later < earlier - 5 for earlier, later in changed)
    costs = round_costs(demo, now.number, now.opening_boots)
    assert "saltmarsh-backup" not in costs.replay.entry_ids or (
        costs.costs["saltmarsh-backup"].use.cpu_seconds == 0
    )
    boot = now.opening_boots[0]
    answer = load_answer(demo, now, boot, timeline_of(demo, boot), LoadQuestion())
    (aside,) = [r for r in answer.page.rows if r.program == "saltmarsh-backup"]
    assert aside.outside
    assert "a copy made while we measured" in aside.remark
    bring_program_back(demo, now, "saltmarsh-backup")
    assert job() == before


def test_load_per_entry_sums_to_load_per_program(demo, job):
    boot = job().opening_boots[0]
    timeline = timeline_of(demo, boot)
    for span in (Span.STARTUP, (30.0, 45.0)):
        pages = [load_answer(demo, job(), boot, timeline, LoadQuestion(span, by)).page for by in By]
        by_program, by_entry = (float(page.sums[0]) for page in pages)
        # What nobody accounts for is a row of its own only among the entries.
        rest = next((r.amounts[0] for r in pages[1].rows if r.name == "unexplained"), 0.0)
        assert by_program + rest == pytest.approx(by_entry, abs=0.15)
    names = {r.name for r in pages[1].rows}
    assert {"Brassrail Till", "the system and the session"} <= names
    assert pages[0].span == (30.0, 45.0)


def test_a_stock_profile_counts_what_was_added(demo, job):
    last = job().rounds[-2][0]
    save_stock_profile(demo, job(), last, timeline_of(demo, last), "as it should be")
    first = job().opening_boots[0]
    question = LoadQuestion(profile="as it should be")
    answer = load_answer(demo, job(), first, timeline_of(demo, first), question)
    assert answer.profiles == ("as it should be",)
    assert "more at rest than “as it should be”" in answer.page.stock
    more = [r.program for r in answer.page.rows if "more than stock" in r.remark]
    assert {"lanternprint-spool", "gullwatch-indexer"} <= set(more)
    with pytest.raises(Refused, match="name"):
        save_stock_profile(demo, job(), last, timeline_of(demo, last), " ")
    undo(demo)
    assert stored_entries.profiles(demo) == ()


def test_a_pc_known_by_stopwatch_has_entries_typed_in_and_says_why_they_have_no_grade(ledger):
    number = take_in(ledger, Card("0001", "Old PC"), Facts())

    def old():
        return stored.job(ledger, number)

    add_timed(ledger, old(), {Mark.POWER_ON: 0.0, Mark.READY: 81.0}, old().taken_in_at)
    assert "type the entries in" in entries_page(
        entries_data(ledger, old(), old().opening_boots)).note  # fmt: skip
    typed = "Foghorn Notify | /opt/foghorn/notify\n\nDeckhand Updater\t/opt/deckhand/updater\nX\nX"
    assert type_entries(ledger, old(), typed) == 3
    page = entries_page(entries_data(ledger, old(), old().opening_boots))
    assert {r.grade for r in page.rows} == {Grade.UNGRADED}
    assert "timed by hand" in row(page, "Foghorn Notify").cost
    assert "bare updater" in row(page, "Deckhand Updater").about
    decide(ledger, old(), [entry_of(page, "Deckhand Updater")], Decision.OFF, "not needed")
    page = entries_page(entries_data(ledger, old(), old().opening_boots))
    assert "not known: no program was watched" in page.plan
    with pytest.raises(Refused, match="More than 500"):
        type_entries(ledger, old(), "\n".join(map(str, range(501))))


def test_the_workshop_remembers_over_jobs_and_lists_what_to_look_up(demo, job, page):
    workshop = Workshop(demo)
    found = workshop.elsewhere(Identity("lanternprint", "/opt/lanternprint/agent"), job().number)
    assert [one.job.card.label for one in found] == []
    by_entry = workshop.elsewhere(Identity(entry_id="lanternprint-agent"), job().number)
    assert [one.job.card.label for one in by_entry] == ["0398"]
    assert by_entry[0].saved_seconds > 3
    other = next(one for one in stored.all_jobs(demo) if one.card.label == "0398")
    decide(demo, other, [entry_of(page, "Lanternprint Agent")], Decision.KEEP, "missed at once")
    post(demo, stored.job(demo, other.number))
    (again,) = Workshop(demo).elsewhere(Identity("lanternprint"), job().number)
    assert (again.matched_by, again.put_back) == ("package", True)
    assert "put back 1 time" in in_words((again,))
    (look_up,) = Workshop(demo).look_ups()
    assert look_up.decided.name == "TideClock Sync"
    write_finding(demo, job(), "tideclock-sync", "the desk never opens the calendar")
    (look_up,) = Workshop(demo).look_ups()
    assert look_up.decided.finding == "the desk never opens the calendar"


def test_reasons_and_thresholds_are_kept(demo, job, page):
    chosen = [entry_of(page, name) for name in ("Deckhand Updater", "Pilotcard Reader")]
    give_reason(demo, job(), chosen, "asked the owner")
    decided = decisions_of(demo, job())
    assert decided["deckhand-updater"].decision is Decision.OFF
    assert decided["pilotcard-reader.service"].reason == "asked the owner"
    levels = GradeThresholds(heavy=0.5, moderate=0.3, light=0.1)
    set_thresholds(demo, levels)
    assert thresholds(demo) == levels
    data = entries_data(demo, job(), job().opening_boots)
    assert row(entries_page(data), "Saltmarsh Backup").grade is Grade.LIGHT
    with pytest.raises(Refused, match="above"):
        set_thresholds(demo, replace(levels, moderate=0.6))


def test_a_thousand_entries_are_listed(demo, job):
    many = [entry(f"typed:{number}") for number in range(1000)]
    stored_entries.write_typed_entries(demo, job().number, many)
    data = entries_data(demo, job(), job().opening_boots)
    assert len(entries_page(data).rows) == 1000 + 12
