"""The statement's pages for whoever works on the PC next: entries, boots, facts, how to undo."""

from collections.abc import Iterator

from plucky_ledger.core.entries.kinds import Switcher, file_name, switched_by
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change
from plucky_ledger.exchange.statement import BootLine, EntryLine, ForTheNext
from plucky_ledger.pages.entries import EntryRow
from plucky_ledger.pages.statement import RecordedBoot, StatementPage
from plucky_ledger.wording.book import change_in_words
from plucky_ledger.wording.condition import drives_in_words
from plucky_ledger.wording.entries import cost_in_words
from plucky_ledger.wording.facts import facts_in_brief, more_facts
from plucky_ledger.wording.figures import day_and_time, with_unit
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say
from plucky_ledger.wording.safe import shown


def for_the_next(page: StatementPage) -> ForTheNext:
    """Everything on these pages but the book and the verdict."""
    return ForTheNext(
        entries=tuple(_entry(row) for row in page.entries),
        boots=tuple(_boot(page, recorded) for recorded in page.boots),
        put_back=tuple(shown(change_in_words(change)) for change in page.put_back),
        facts=tuple((heading, told) for heading, told in _facts(page) if told),
        undo=tuple(_undo(page)),
    )


def _entry(row: EntryRow) -> EntryLine:
    decided = row.decided
    return EntryLine(
        name=shown(row.entry.name),
        kind=label(row.entry.kind),
        cost=cost_in_words(row.cost, spoken=True),
        decision=label(decided.decision) if decided else "",
        reason=shown(decided.reason) if decided else "",
    )


def _boot(page: StatementPage, recorded: RecordedBoot) -> BootLine:
    boot, reading, measure = recorded.boot, recorded.reading, page.book.measure
    figure = with_unit(reading.value, measure) if reading else ""
    remarks = (
        say("set aside: {why}", why=shown(boot.set_aside)) if boot.set_aside else "",
        say("the recording was cut short") if boot.cut_short else "",
    )
    return BootLine(
        line=str(recorded.line or ""),
        at=day_and_time(boot.started_at),
        how=label(boot.how),
        figure=say("{figure} or more", figure=figure) if reading and reading.censored else figure,
        remark="; ".join(filter(None, remarks)),
    )


def _facts(page: StatementPage) -> Iterator[tuple[str, str]]:
    facts = page.book.facts
    yield say("System"), shown(facts.os_release)
    yield say("Kernel"), shown(facts.kernel)
    yield say("Processor"), shown(facts.cpu_model)
    yield say("Equipment"), " · ".join(filter(None, (facts_in_brief(facts), more_facts(facts))))
    if page.inspected is not None:
        yield say("Drives"), " · ".join(drives_in_words(page.inspected.condition))


def _undo(page: StatementPage) -> Iterator[str]:
    if not page.owner.changed:
        return
    yield say(
        "On this PC, “plucky-ledger put-back --everything” puts back whatever Plucky Ledger "
        "switched, byte for byte. By hand:"
    )
    yield from (_undone_by_hand(change) for change in page.owner.changed)


def _undone_by_hand(change: Change) -> str:
    what, file = shown(change_in_words(change)), shown(file_name(change.entry_id))
    of_manager = _BY_MANAGER.get(change.new_state or EntryState.ON, "revert")
    by = switched_by(change.entry_id) if "." in file or ":" in change.entry_id else None
    match by:
        case Switcher.SYSTEM_MANAGER:
            return f"{what}: sudo systemctl {of_manager} {file}"
        case Switcher.USER_MANAGER:
            return f"{what}: systemctl --user {of_manager} {file}"
        case Switcher.DESKTOP_ENTRIES:
            return say(
                "{what}: in ~/.config/autostart/{file} take out the line Hidden=true; delete the "
                "file where the system has one of the same name",
                what=what,
                file=file,
            )
        case Switcher.TABLES:
            return say("{what}: take the # away from the front of its line", what=what)
        case Switcher.INIT_SCRIPTS:
            return say("{what}: put its links back with the init system's own tool", what=what)
        case _ if change.entry_id:
            return say("{what}: switch it on again the way it was switched off", what=what)
        case _:
            return say("{what}: set it as it was before", what=what)


_BY_MANAGER = {EntryState.OFF: "enable", EntryState.OFF_FOR_GOOD: "unmask"}
"""What undoes a state with systemctl(1); the others are files beside the unit's own."""
