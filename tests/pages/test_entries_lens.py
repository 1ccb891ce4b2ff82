"""The Entries lens without a screen: costs, decisions, the plan, what the workshop remembers."""

from dataclasses import replace

import pytest
from sqlalchemy import event

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.entries.entry import EntryKind, EntryOwner
from plucky_ledger.core.entries.identity import Identity
from plucky_ledger.core.entries.kinds import Family
from plucky_ledger.core.entries.sources import SourceLooked, StartSource
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.replay.grades import Grade, GradeThresholds
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.pages.book import book_page, expecting
from plucky_ledger.pages.entries import (
    DecidedChoice,
    OwnerChoice,
    entries_at_once,
    entries_page,
    fits,
)
from plucky_ledger.pages.lanes import lane_facts, lanes_page
from plucky_ledger.pages.load import By, LoadQuestion, Span, load_answer
from plucky_ledger.store.entries import write_typed_entries
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.changing.decisions import (
    decide,
    decisions_in,
    give_reason,
    write_finding,
)
from plucky_ledger.usecases.changing.postings import post, rub_out
from plucky_ledger.usecases.changing.programs_set_aside import bring_program_back, set_program_aside
from plucky_ledger.usecases.jobs.jobs import find_job, read_job, take_in
from plucky_ledger.usecases.jobs.undo import redo, undo
from plucky_ledger.usecases.jobs.visits import begin_visit
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import CostsKept
from plucky_ledger.usecases.reading.elsewhere import WorkshopMemory
from plucky_ledger.usecases.reading.grades import set_thresholds, thresholds
from plucky_ledger.usecases.reading.known_programs import entries_unknown
from plucky_ledger.usecases.reading.search import look_up_program
from plucky_ledger.usecases.reading.stock_profiles import save_stock_profile, stock_profiles
from plucky_ledger.usecases.recording.boots import add_timed
from plucky_ledger.usecases.recording.typed_entries import type_entries
from plucky_ledger.wording.book import change_in_words, row_in_words
from plucky_ledger.wording.entries import (
    card_in_words,
    entry_in_words,
    learned_in_words,
    looked_in_words,
    note,
    plan_in_words,
    system_line,
)
from plucky_ledger.wording.lanes import lane_cost
from plucky_ledger.wording.load import load_in_words, stock_in_words
from tests.helpers.runs import entry
from tests.helpers.trouble import told

KEPT = CostsKept(Analyses())
"""By everything costs depend on, and every demo ledger is a copy of the same."""


@pytest.fixture
def number(demo):
    return find_job(demo, "0417")


@pytest.fixture
def job(demo, number):
    return lambda: read_job(demo, number)


@pytest.fixture
def analyses():
    return Analyses()


def page_of(ledger, number, boots=None, kept=None):
    job = read_job(ledger, number)
    kept = kept or KEPT
    return entries_page(ledger, number, boots or job.opening_boots, kept, WorkshopMemory())


@pytest.fixture
def page(demo, number):
    return page_of(demo, number)


def row(page, name):
    return next(one for one in (*page.rows, *page.system_rows) if one.entry.name == name)


def words(page, name):
    return entry_in_words(row(page, name))


def entry_of(page, name):
    return row(page, name).entry


def test_costliest_first_with_whiskers_grades_and_the_system_folded(page):
    found = [one.cost.settled for one in page.rows if one.cost.settled]
    costs = [seconds.value for seconds in found]
    assert costs == sorted(costs, key=lambda value: -round(value, 1))
    assert page.most_seconds >= max(seconds.high for seconds in found)
    assert row(page, "Saltmarsh Backup").grade is Grade.HEAVY
    assert row(page, "Quaybell Helper").grade in {Grade.LIGHT, Grade.NEGLIGIBLE}
    gone = words(page, "Windlass Toolbar")
    assert (row(page, "Windlass Toolbar").grade, gone.memory) == (Grade.UNGRADED, "")
    assert gone.cost == "never seen running: its program is gone"
    assert {"program missing", "sign-in"} <= set(gone.about.split(" · "))
    assert all(one.entry.part_of_system for one in page.system_rows)
    assert "8 parts of the system" in system_line(page)


def test_the_card_tells_command_package_evidence_and_what_other_jobs_taught(page):
    card = dict(card_in_words(row(page, "Lanternprint Agent")))
    assert card["Runs"] == "/opt/lanternprint/agent --tray"
    assert card["Belongs to"] == "lanternprint 11.0"
    assert "later settled" in card["In 5 boots"]
    assert card["Boot by boot"].count(",") == 4
    learned = card["On other jobs"]
    assert "started later on 1 other job;" in learned
    assert "labels are printed in the office" in learned
    assert "s typically when measured alone" in learned


def test_filters_by_text_kind_owner_and_decision(page):
    def fitting(**asked):
        return [one for one in page.rows if fits(one, **asked)]

    def names(decided):
        return {one.entry.name for one in fitting(decided=decided)}

    labelled = [one.entry.name for one in page.rows if entry_in_words(one).has("label", one.entry)]
    assert labelled == ["Lanternprint Agent"]
    services = fitting(kind=Family.SERVICES)
    assert {one.entry.kind for one in services} == {EntryKind.SYSTEM_SERVICE}
    assert {one.entry.owner for one in fitting(owner=OwnerChoice.USER)} == {EntryOwner.USER}
    assert names(DecidedChoice.PENCILLED) == {"Deckhand Updater", "Foghorn Notify"}
    assert names(DecidedChoice.LOOK_UP) == {"TideClock Sync"}
    open_or_not = names(DecidedChoice.DECIDED), names(DecidedChoice.NOT_DECIDED)
    assert sum(map(len, open_or_not)) == len(page.rows)


def test_decisions_pencil_changes_and_taking_them_back_rubs_them_out(demo, number, job, page):
    pencilled = {c.entry_id: c.new_state for c in job().pencilled.changes}
    assert pencilled == {"deckhand-updater": EntryState.OFF, "foghorn-notify": EntryState.LATER}
    decide(demo, number, [entry_of(page, "Brassrail Till")], Decision.OFF, "closed today")
    assert len(job().pencilled.changes) == 3
    for name in ("Brassrail Till", "Deckhand Updater", "Foghorn Notify"):
        decide(demo, number, [entry_of(page, name)], Decision.KEEP)
    assert job().pencilled is None
    assert decisions_in(demo, number)["brassrail-till"].reason == "closed today"
    # An entry that is off is kept only by switching it on again.
    decide(demo, number, [entry_of(page, "Gullwatch Indexer")], Decision.KEEP, "wanted after all")
    (change,) = job().pencilled.changes
    assert change.new_state is EntryState.ON
    assert change_in_words(change) == "Gullwatch Indexer switched on again"


def test_several_entries_are_one_step_that_can_be_undone(demo, number, job, page):
    before = decisions_in(demo, number), job()
    chosen = [entry_of(page, name) for name in ("Brassrail Till", "TideClock Sync")]
    decide(demo, number, chosen, Decision.OFF)
    after = decisions_in(demo, number), job()
    undo(demo, number)
    assert (decisions_in(demo, number), job()) == before
    redo(demo, number)
    assert (decisions_in(demo, number), job()) == after


def test_guarded_entries_need_a_second_deliberate_step(demo, number, job, page):
    for name, why in (
        ("Harbour Guard", "marked so by the PC"),
        ("wireless setup", "of the system"),
    ):
        with told(why):
            decide(demo, number, [entry_of(page, name)], Decision.OFF)
        decide(demo, number, [entry_of(page, name)], Decision.KEEP)
        decide(demo, number, [entry_of(page, name)], Decision.OFF, deliberate=True)
        assert decisions_in(demo, number)[entry_of(page, name).entry_id].decision is Decision.OFF
    with told("Choose an entry"):
        decide(demo, number, [], Decision.KEEP)


def test_what_was_rubbed_out_is_decided_no_longer_but_its_finding_stays(demo, number, job, page):
    write_finding(demo, number, "deckhand-updater", "looks for updates every hour")
    rub_out(demo, number)
    assert "foghorn-notify" not in decisions_in(demo, number)
    kept = decisions_in(demo, number)["deckhand-updater"]
    assert (kept.decision, kept.finding) == (Decision.LOOK_UP, "looks for updates every hour")
    with told("look up"):
        write_finding(demo, number, "quaybell-nowhere", "x")


def test_the_plan_counts_overlaps_once_and_the_book_expects_it(demo, number, job):
    kept = CostsKept(Analyses())
    boots = job().rounds[-2]
    at_once = entries_at_once(demo, number, boots, kept.analyses, WorkshopMemory())
    assert plan_in_words(at_once)[1].endswith("What they would bring is being worked out.")
    page = page_of(demo, number, boots, kept)
    plan = page.plan
    assert plan.settled.low < 41.5 < plan.settled.high
    strong, rest = plan_in_words(page)
    assert strong.startswith(f"Predicted: settled at {plan.settled.value:.1f} s")
    never_settled = replace(page, plan=replace(plan, settled=None, saved=None))
    strong, _ = plan_in_words(never_settled)
    assert strong.startswith(f"Predicted: system up at {plan.system_up.value:.1f} s")
    assert "1 off, 1 later" in rest
    assert "overlaps counted once" in rest
    assert words(page, "Saltmarsh Backup").cost.startswith("works later: 9.")
    expected = kept.expected(demo, number)
    assert expected == plan
    pencilled = expecting(book_page(job(), Measure.SETTLED), expected).rows[-1]
    assert row_in_words(pencilled).remark.startswith("predicted ")
    assert pencilled.expected == plan.settled
    processes = expecting(book_page(job(), Measure.PROCESSES), expected)
    assert processes.rows[-1].expected is None
    post(demo, number)
    assert kept.expected(demo, number) is None


def test_costs_are_kept_until_what_they_rest_on_changes(demo, number, job):
    kept, boots = CostsKept(Analyses()), job().opening_boots
    first = kept.of(demo, number, boots)
    assert kept.of(demo, number, boots) is first
    set_program_aside(demo, number, "gullwatch-indexer", "only here for the test")
    assert kept.of(demo, number, job().opening_boots) is not first


def test_lanes_show_the_cost(demo, number, job, analyses):
    boots = job().opening_boots
    facts = lane_facts(demo, job(), boots, CostsKept(analyses))
    lanes = lanes_page(analyses.of(demo, number, boots[0]), None, facts).lanes
    shown = {lane.entry_id: lane_cost(lane) for lane in lanes}
    assert shown["saltmarsh-backup"][0].endswith(" s")
    assert " to " in shown["saltmarsh-backup"][1]
    assert shown["sign-in-screen.service"] == ("", "")
    decided = {lane.entry_id: (lane.decision, lane.pencilled) for lane in lanes}
    assert decided["saltmarsh-backup"] == (Decision.LATER, False)
    assert decided["deckhand-updater"] == (Decision.OFF, True)
    assert decided["device-setup.service"] == (None, False)


def test_a_program_set_aside_leaves_every_figure_and_comes_back(demo, number, job, analyses):
    before = job()
    with told("Say why"):
        set_program_aside(demo, number, "saltmarsh-backup", " ")
    set_program_aside(demo, number, "saltmarsh-backup", "a copy made while we measured")
    now = job()
    changed = [
        (a.readings[Measure.CPU_WORK].value, b.readings[Measure.CPU_WORK].value)
        for a, b in zip(before.opening_boots, now.opening_boots, strict=True)
    ]
    assert all(later < earlier - 5 for earlier, later in changed)
    costs = CostsKept(analyses).of(demo, number, now.opening_boots)
    assert "saltmarsh-backup" not in costs.replay.entry_ids or (
        costs.costs["saltmarsh-backup"].use.cpu_seconds == 0
    )
    boot = now.opening_boots[0]
    answer = load_answer(demo, number, boot, analyses, LoadQuestion())
    (aside,) = [r for r in answer.page.rows if r.program == "saltmarsh-backup"]
    assert aside.outside
    assert "a copy made while we measured" in load_in_words(aside).remark
    bring_program_back(demo, number, "saltmarsh-backup")
    assert job() == before


def test_what_is_new_since_the_last_visit_or_unknown_here_is_said(demo, number, job, analyses):
    """New is what no boot of the visit before had; unknown, what nobody decided about anywhere."""
    boot = job().opening_boots[0]
    first_visit = load_answer(demo, number, boot, analyses, LoadQuestion()).page
    assert not any(row.new_since_visit or row.unknown_here for row in first_visit.rows)
    rub_out(demo, number)
    begin_visit(demo, number)
    again = load_answer(demo, number, boot, analyses, LoadQuestion()).page
    new = {row.program for row in again.rows if row.new_since_visit}
    assert {"lanternprint-agent", "quaybell-helper"} <= new  # off when the visit before ended
    assert not {"brassrail-till", "harbour-guard", "init"} & new
    (row,) = [row for row in again.rows if row.program == "lanternprint-agent"]
    assert "new since the last visit" in load_in_words(row).remark
    stranger = entry("stranger.desktop", "/opt/stranger/run", executable="/opt/stranger/run")
    entries = (*analyses.of(demo, number, boot).timeline.entries, stranger)
    rubbed_out = {"foghorn-notify", "deckhand-updater"}  # their decisions were only pencilled
    assert entries_unknown(demo, entries, WorkshopMemory()) == {"stranger.desktop", *rubbed_out}
    look_up_program(demo, number, "Stranger", "/opt/stranger/run", stranger)
    assert entries_unknown(demo, entries, WorkshopMemory()) == rubbed_out


def test_load_per_entry_sums_to_load_per_program(demo, number, job, analyses):
    boot = job().opening_boots[0]
    for span in (Span.STARTUP, (30.0, 45.0)):
        asked = [LoadQuestion(span, by) for by in By]
        pages = [load_answer(demo, number, boot, analyses, one).page for one in asked]
        by_program, by_entry = (page.sums.cpu_seconds for page in pages)
        # What nobody accounts for is a row of its own only among the entries.
        rest = next((r.amounts.cpu_seconds for r in pages[1].rows if r.kind == "unexplained"), 0.0)
        assert by_program + rest == pytest.approx(by_entry, abs=0.15)
    names = {load_in_words(r).name for r in pages[1].rows}
    assert {"Brassrail Till", "the system and the session"} <= names
    assert pages[0].span == (30.0, 45.0)


def test_a_stock_profile_counts_what_was_added(demo, number, job, analyses):
    last = analyses.of(demo, number, job().rounds[-2][0])
    save_stock_profile(demo, number, last, "as it should be")
    first = job().opening_boots[0]
    question = LoadQuestion(profile="as it should be")
    answer = load_answer(demo, number, first, analyses, question)
    assert answer.profiles == ("as it should be",)
    assert "more at rest than “as it should be”" in stock_in_words(answer.page)
    more = [r.program for r in answer.page.rows if "stock" in load_in_words(r).remark]
    assert {"lanternprint-spool", "gullwatch-indexer"} <= set(more)
    with told("name"):
        save_stock_profile(demo, number, last, " ")
    undo(demo, number)
    assert stock_profiles(demo) == {}


def test_a_pc_known_by_stopwatch_has_entries_typed_in_and_says_why_they_have_no_grade(ledger):
    number = take_in(ledger, Card("0001", "Old PC"), Facts())

    taken_in_at = read_job(ledger, number).taken_in_at
    add_timed(ledger, number, {Mark.POWER_ON: 0.0, Mark.READY: 81.0}, taken_in_at)
    assert "type the entries in" in note(page_of(ledger, number))
    typed = "Foghorn Notify | /opt/foghorn/notify\n\nDeckhand Updater\t/opt/deckhand/updater\nX\nX"
    assert type_entries(ledger, number, typed) == 3
    page = page_of(ledger, number)
    assert {r.grade for r in page.rows} == {Grade.UNGRADED}
    assert "timed by hand" in words(page, "Foghorn Notify").cost
    assert "only an updater" in words(page, "Deckhand Updater").about
    decide(ledger, number, [entry_of(page, "Deckhand Updater")], Decision.OFF, "not needed")
    page = page_of(ledger, number)
    assert "not known: no programs were recorded" in plan_in_words(page)[1]
    with told("More than 500"):
        type_entries(ledger, number, "\n".join(map(str, range(501))))


def test_the_workshop_remembers_over_jobs_and_lists_what_to_look_up(demo, number, page):
    memory = WorkshopMemory()

    def elsewhere(*known, **more):
        identity = Identity(*known, **more)
        return memory.elsewhere(demo, [identity], number)[identity]

    assert not elsewhere("lanternprint", "/opt/lanternprint/agent").jobs
    by_entry = elsewhere(entry_id="lanternprint-agent")
    assert (by_entry.jobs, by_entry.changed, by_entry.quoted[0].label) == (1, 1, "0398")
    (saved,) = by_entry.saved_seconds
    assert saved > 3
    other = find_job(demo, "0398")
    decide(demo, other, [entry_of(page, "Lanternprint Agent")], Decision.KEEP, "missed at once")
    post(demo, other)
    again = elsewhere("lanternprint")
    assert (again.jobs, again.changed, again.put_back, again.saved_seconds) == (1, 0, 1, (saved,))
    assert "put back 1 time" in learned_in_words(again)
    (look_up,) = memory.look_ups(demo)
    assert look_up.decided.name == "TideClock Sync"
    write_finding(demo, number, "tideclock-sync", "the desk never opens the calendar")
    (look_up,) = memory.look_ups(demo)
    assert look_up.decided.finding == "the desk never opens the calendar"


def test_a_key_press_asks_the_ledger_a_fixed_number_of_questions(ledger):
    """However many jobs and decisions the workshop has."""
    memory, kept, asked = WorkshopMemory(), CostsKept(Analyses()), []
    event.listen(ledger.kept.engine, "before_cursor_execute", lambda *told: asked.append(told[2]))
    counts = []
    for jobs in (2, 10):
        for _ in range(jobs):
            number = take_in(ledger, Card("", "PC"), Facts())
            chosen = [entry(f"typed:{index}") for index in range(20)]
            with step(ledger, StepCode.TYPE_ENTRIES, number) as session:
                write_typed_entries(session, number, chosen)
            decide(ledger, number, chosen, Decision.KEEP)
        entries_page(ledger, number, (), kept, memory)
        asked.clear()
        decide(ledger, number, chosen[:1], Decision.LOOK_UP)
        entries_page(ledger, number, (), kept, memory)
        counts.append(len(asked))
    assert counts[0] == counts[1] < 50, counts


def test_reasons_and_thresholds_are_kept(demo, number, page):
    chosen = [entry_of(page, name) for name in ("Deckhand Updater", "Pilotcard Reader")]
    give_reason(demo, number, chosen, "asked the owner")
    decided = decisions_in(demo, number)
    assert decided["deckhand-updater"].decision is Decision.OFF
    assert decided["pilotcard-reader.service"].reason == "asked the owner"
    levels = GradeThresholds(heavy=0.5, moderate=0.3, light=0.1)
    set_thresholds(demo, levels)
    assert thresholds(demo) == levels
    assert row(page_of(demo, number), "Saltmarsh Backup").grade is Grade.LIGHT
    with told("above"):
        set_thresholds(demo, replace(levels, moderate=0.6))


def test_a_thousand_entries_are_listed(demo, number):
    many = [entry(f"typed:{index}") for index in range(1000)]
    with step(demo, StepCode.TYPE_ENTRIES, number) as session:
        write_typed_entries(session, number, many)
    assert len(page_of(demo, number).rows) == 1000 + 12


def test_where_was_looked_is_said_and_what_may_not_be_read():
    def looked(*refused):
        return SourceLooked(source=StartSource.TABLES, files=3, entries=1, refused=refused)

    assert looked_in_words(()) == ""
    assert looked_in_words((looked(), looked())) == (
        "Looked for entries in 6 files besides the service managers."
    )
    assert looked_in_words((looked("/var/spool/cron"),)).endswith(
        "3 files besides the service managers. Not readable: /var/spool/cron."
    )
