"""Deciding about startup entries: what shall become of each, and why."""

import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cache
from importlib.resources import files

from plucky_ledger.core.book.job import Change, ChangeKind, EntryState, Job, Posting
from plucky_ledger.core.boots.boot import StartupEntry
from plucky_ledger.core.cost.cost import GradeThresholds
from plucky_ledger.core.entries.decisions import Decided, Decision, identity_of
from plucky_ledger.core.entries.hints import Hint, HintKind, Rule, hints_of
from plucky_ledger.store import entries as stored
from plucky_ledger.store import jobs as stored_jobs
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs import Refused
from plucky_ledger.usecases.postings import entry_states
from plucky_ledger.wording.figures import count, now

STATE_OF = {
    Decision.KEEP: EntryState.ON,
    Decision.LOOK_UP: EntryState.ON,
    Decision.OFF: EntryState.OFF,
    Decision.LATER: EntryState.LATER,
}
IN_WORDS = {
    EntryState.ON: "switched on again",
    EntryState.OFF: "switched off",
    EntryState.LATER: "starts later",
}
THRESHOLDS = "grade thresholds"
LONGEST_LIST = 500
"""Entries that can be typed in for one PC."""


@cache
def rules() -> tuple[Rule, ...]:
    """The rules of hints.toml."""
    data = tomllib.loads(files("plucky_ledger.usecases").joinpath("hints.toml").read_text("utf-8"))
    return tuple(
        Rule(HintKind(rule["kind"]), tuple(rule["words"]), rule["because"]) for rule in data["rule"]
    )


def hints(entries: Sequence[StartupEntry]) -> dict[str, tuple[Hint, ...]]:
    """What can be pointed out about each entry, by its id."""
    return hints_of(entries, rules())


def is_guarded(entry: StartupEntry, found: Mapping[str, Sequence[Hint]]) -> bool:
    """Whether switching it off needs a second deliberate step."""
    by_hint = any(hint.kind is HintKind.GUARDED for hint in found.get(entry.entry_id, ()))
    return entry.part_of_system or by_hint


def decide(
    ledger: Ledger,
    job: Job,
    entries: Sequence[StartupEntry],
    decision: Decision,
    reason: str = "",
    deliberate: bool = False,
) -> None:
    """Decide about some entries in one step; what is to be changed is pencilled.

    Raises:
        Refused: nothing chosen, or a guarded entry would be changed without ``deliberate``.
    """
    if not entries:
        raise Refused("Choose an entry first.")
    changes_it = decision in {Decision.OFF, Decision.LATER}
    found = hints(entries)
    guarded = [entry for entry in entries if changes_it and is_guarded(entry, found)]
    if guarded and not deliberate:
        raise Refused(
            f"{guarded[0].name} is {_why_guarded(guarded[0])}. Decide “{decision}” once more to "
            "mean it."
        )
    _write(ledger, job, str(decision), [(entry, decision, reason) for entry in entries])


def _write(
    ledger: Ledger, job: Job, what: str, wanted: Sequence[tuple[StartupEntry, Decision, str]]
) -> None:
    """Write decisions and the pencilled posting that follows from them, in one step."""
    earlier = stored.decisions(ledger).get(job.number, {})
    decided = [
        _decided(entry, decision, reason, earlier.get(entry.entry_id))
        for entry, decision, reason in wanted
    ]
    about = decided[0].name if len(decided) == 1 else count(len(decided), "entry", "entries")
    posting = _pencilled(stored_jobs.job(ledger, job.number), decided)
    stored.write_decisions(ledger, f"{what}: {about}", job.number, decided, posting)


def _why_guarded(entry: StartupEntry) -> str:
    return "part of the system" if entry.part_of_system else "there to protect the PC"


def _decided(
    entry: StartupEntry, decision: Decision, reason: str, earlier: Decided | None
) -> Decided:
    return Decided(
        entry.entry_id,
        decision,
        now(),
        entry.name,
        reason.strip() or (earlier.reason if earlier else ""),
        earlier.finding if earlier else "",
        identity_of(entry),
    )


def _pencilled(job: Job, decided: Sequence[Decided]) -> Posting:
    """The pencilled posting with the changes that follow from some decisions."""
    posting = job.pencilled or Posting(0, ())
    about = {one.entry_id for one in decided}
    kept = [change for change in posting.changes if change.entry_id not in about]
    states = entry_states(job)
    for one in decided:
        wanted = STATE_OF[one.decision]
        if states.get(one.entry_id, EntryState.ON) is not wanted:
            kept.append(
                Change(ChangeKind.STARTUP_ENTRY, f"{one.name} {IN_WORDS[wanted]}", one.reason,
                       one.entry_id, wanted)
            )  # fmt: skip
    return replace(posting, changes=tuple(kept))


def give_reason(ledger: Ledger, job: Job, entries: Sequence[StartupEntry], reason: str) -> None:
    """Say why something was decided; an entry nobody decided about yet is kept for that reason."""
    known = decisions_of(ledger, job)
    wanted = [
        (
            entry,
            known[entry.entry_id].decision if entry.entry_id in known else Decision.KEEP,
            reason,
        )
        for entry in entries
    ]
    _write(ledger, job, "reason", wanted)


def write_finding(ledger: Ledger, job: Job, entry_id: str, finding: str) -> None:
    """Write down what looking an entry up has told.

    Raises:
        Refused: nobody decided about the entry.
    """
    known = decisions_of(ledger, job).get(entry_id)
    if known is None:
        raise Refused("Decide “look up” about the entry first.")
    found = replace(known, finding=finding.strip())
    stored.write_decisions(ledger, f"what was found about {known.name}", job.number, [found], None)


def decisions_of(ledger: Ledger, job: Job) -> dict[str, Decided]:
    """What was decided in a job, by entry id; what was only posted counts as decided, too."""
    found: dict[str, Decided] = {}
    by_state = {EntryState.OFF: Decision.OFF, EntryState.LATER: Decision.LATER,
                EntryState.ON: Decision.KEEP}  # fmt: skip
    for posting in job.postings:
        for change in posting.changes:
            if change.entry_id and change.new_state:
                name = change.what.removesuffix(f" {IN_WORDS[change.new_state]}")
                found[change.entry_id] = Decided(
                    change.entry_id,
                    by_state[change.new_state],
                    posting.posted_at or now(),
                    name,
                    change.why,
                )
    for entry_id, one in stored.decisions(ledger).get(job.number, {}).items():
        posted = found.get(entry_id)
        state = STATE_OF[posted.decision] if posted else EntryState.ON
        if STATE_OF[one.decision] is state:
            found[entry_id] = one
        elif posted is not None:
            # Posted or put back since: that stands, with what was said about it before.
            found[entry_id] = replace(one, decision=posted.decision, reason=posted.reason)
        elif one.finding:
            found[entry_id] = replace(one, decision=Decision.LOOK_UP)
    return found


def type_entries(ledger: Ledger, job: Job, text: str) -> int:
    """Take entries from lines of text, name and start command parted by a bar or a tab.

    Returns how many; the lines replace what was typed before.

    Raises:
        Refused: too many lines.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > LONGEST_LIST:
        raise Refused(f"More than {LONGEST_LIST} lines: this is no list of startup entries.")
    entries: dict[str, StartupEntry] = {}
    for line in lines:
        name, _, command = line.replace("\t", "|").partition("|")
        entry_id = f"typed:{name.strip().casefold()[:200]}"
        entries[entry_id] = StartupEntry(
            entry_id, name.strip()[:200], "user", "typed in", command=command.strip()[:2000]
        )
    stored.write_typed_entries(ledger, job.number, list(entries.values()))
    return len(entries)


def thresholds(ledger: Ledger) -> GradeThresholds:
    """From which shares an entry is of a grade, as the workshop has set it."""
    return stored.setting(ledger, THRESHOLDS, GradeThresholds) or GradeThresholds()


def set_thresholds(ledger: Ledger, wanted: GradeThresholds) -> None:
    """Change the grades' thresholds.

    Raises:
        Refused: they are not in order.
    """
    if not 0 < wanted.light < wanted.moderate < wanted.heavy <= 1:
        raise Refused("Each grade has to begin above the one below it, and above zero.")
    stored.write_setting(ledger, "change the grades", THRESHOLDS, wanted)
