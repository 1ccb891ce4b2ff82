"""Reasons in words: what the core, a recording or a PC has to say."""

from collections.abc import Callable, Iterable, Mapping
from datetime import datetime

from plucky_ledger.core.book.comparability import Side
from plucky_ledger.core.boots.boot import How, PowerSource, StartKind
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.entries.hints import Source
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Fact, Reason, ReasonCode
from plucky_ledger.wording.figures import (
    day_and_time,
    memory_size,
    number,
    percent,
    round_span,
    seconds,
    tenths,
    with_unit,
)
from plucky_ledger.wording.labels import label, labels
from plucky_ledger.wording.language import N_, all_of, say, say_n
from plucky_ledger.wording.safe import shown

Facts = Mapping[str, Fact]


def reason_in_words(reason: Reason) -> str:
    """A reason as a sentence or a few words, fit to be shown."""
    text = _WORDS[reason.code]
    return shown(say(text, **reason.facts) if isinstance(text, str) else text(reason.facts))


def in_one_line(reasons: Iterable[Reason]) -> str:
    """Several reasons, one sentence after the other."""
    return " ".join(reason_in_words(reason) for reason in reasons)


def _seconds(facts: Facts, decimals: int = 1) -> str:
    return seconds(float(facts["seconds"]), decimals)


def _speed(facts: Facts) -> str:
    """Such as "36 % faster"."""
    ratio = float(facts["ratio"])
    share = percent(abs(ratio - 1))
    return say("{share} slower", share=share) if ratio > 1 else say("{share} faster", share=share)


def control(name: Fact) -> str:
    """What tells how fast the machine itself was."""
    names = {"kernel stage": say("kernel stage"), "fixed work": say("fixed work")}
    return names.get(str(name), str(name))


def _machine_decides(facts: Facts) -> str:
    moved = say(
        "The PC itself was {speed} in the later round ({control}).",
        speed=_speed(facts),
        control=control(facts["control"]),
    )
    turns = say("Record boots of both states in turns: before, after, before, after.")
    return moved if facts.get("in_turns") else f"{moved} {turns}"


def _because(facts: Facts) -> str:
    """The reason within a reason; its code is the fact ``why``."""
    inner = {name: fact for name, fact in facts.items() if name != "why"}
    return reason_in_words(Reason(ReasonCode(str(facts["why"])), inner))


def _with_because(message: str) -> Callable[[Facts], str]:
    return lambda facts: say(message, why=_because(facts))


def _packages_changed(facts: Facts) -> str:
    """Such as "2 packages new, 1 updated: a, b, c"."""
    counts = (
        (say_n("{n} package new", "{n} packages new", int(facts["new"])), facts["new"]),
        (say_n("{n} package gone", "{n} packages gone", int(facts["gone"])), facts["gone"]),
        (
            say_n("{n} package updated", "{n} packages updated", int(facts["updated"])),
            facts["updated"],
        ),
    )
    parts = ", ".join(words for words, count in counts if count)
    names = str(facts["names"])
    if int(facts["more"]):
        names = say("{names} and {more} more", names=names, more=int(facts["more"]))
    return say("{told}: {names}", told=parts, names=names)


def _how_many(message: str) -> Callable[[Facts], str]:
    """So many of those that were asked, and the reason within the reason."""
    return lambda facts: say(
        message,
        missing=number(float(facts["missing"])),
        asked=number(float(facts["asked"])),
        why=_because(facts),
    )


def _word(message: str) -> Callable[[Facts], str]:
    """A hint's evidence: the telling word and where it stood."""
    return lambda facts: say(
        message, word=facts["word"], source=label(Source(str(facts["source"])))
    )


def _differs(message: str, kind: type[How | StartKind | PowerSource]) -> Callable[[Facts], str]:
    def words(facts: Facts) -> str:
        before, after = (labels(str(facts[side]), kind) for side in ("before", "after"))
        return say(message, before=before, after=after)

    return words


def _differs_in_text(message: str) -> Callable[[Facts], str]:
    def words(facts: Facts) -> str:
        before, after = (str(facts[side]).replace("|", ", ") for side in ("before", "after"))
        return say(message, before=before, after=after)

    return words


def _busy(facts: Facts) -> str:
    boots = int(facts["boots"])
    parts = [
        say(message, n=number(int(facts[name])), boots=number(boots))
        for name, message in (
            ("updating", "updates were installing in {n} of {boots} boots"),
            ("slept", "the PC slept during {n} of {boots}"),
            ("checked", "the disk was checked in {n} of {boots} boots"),
        )
        if facts[name]
    ]
    side = label(Side(str(facts["side"])))
    sentence = all_of(parts)
    return say("Of the boots {side}, {what}: set them aside.", side=side, what=sentence)


def _unproven(message: str) -> Callable[[Facts], str]:
    def words(facts: Facts) -> str:
        if facts["hopeless"]:
            return say("{told}; no reasonable number of boots would decide it.", told=say(message))
        return say(
            "{told}: the boots differ too much among themselves for so few of them.",
            told=say(message),
        )

    return words


def _clock_set(facts: Facts) -> str:
    moved = float(facts["seconds"])
    return say(
        "The wall clock was set by {moved} s while this was recorded. Durations do not depend on "
        "it.",
        moved=f"{'+' if moved > 0 else ''}{number(moved)}",
    )


def _reversed(facts: Facts) -> str:
    return say(
        "“{later}” at {later_at} lies before “{earlier}” at {earlier_at}: correct one of the two.",
        later=label(Mark(str(facts["later"]))),
        later_at=seconds(float(facts["later_seconds"])),
        earlier=label(Mark(str(facts["earlier"]))),
        earlier_at=seconds(float(facts["earlier_seconds"])),
    )


_WORDS: Mapping[ReasonCode, str | Callable[[Facts], str]] = {
    ReasonCode.TOLD: lambda facts: str(facts["text"]),
    # Why an entry has no grade.
    ReasonCode.NEVER_SEEN: N_("never seen running"),
    ReasonCode.BEING_WORKED_OUT: N_("being worked out…"),
    ReasonCode.NUMERICS_MISSING: N_("the package {package} is missing"),
    ReasonCode.PROGRAM_GONE: N_("never seen running: its program is gone"),
    ReasonCode.DOES_NOT_START: _with_because("does not start: {why}"),
    ReasonCode.CARRIES_SIGN_IN: N_("signing in would not work without it"),
    ReasonCode.WORKS_LATER: lambda facts: say(
        "works later: {work} after the PC has settled",
        work=with_unit(float(str(facts["cpu_seconds"])), Measure.CPU_WORK),
    ),
    ReasonCode.STARTS_TOO_LATE: N_("starts after these recordings end"),
    ReasonCode.NOT_WATCHED: lambda facts: say(
        "no programs were recorded: the boots were {how}", how=labels(str(facts["how"]), How)
    ),
    ReasonCode.NO_BOOT: N_("no boot has been recorded yet"),
    ReasonCode.NO_ENTRIES: N_("the recordings list no startup entries"),
    ReasonCode.SLEPT: N_("the PC slept while it was recorded"),
    ReasonCode.NEVER_SETTLED: N_("the PC never settled in these recordings"),
    ReasonCode.ONLY_AT_REST: N_("it was only read at rest: record a start of the PC"),
    # Why an entry does not start.
    ReasonCode.HIDDEN: N_("hidden"),
    ReasonCode.NO_APPLICATION: N_("its Type is not Application"),
    ReasonCode.SWITCHED_OFF: N_("switched off"),
    ReasonCode.MASKED: N_("masked: it may not be started at all"),
    ReasonCode.ONLY_FOR_DESKTOPS: N_("only for {desktops}"),
    ReasonCode.NOT_FOR_DESKTOPS: N_("not for {desktops}"),
    ReasonCode.PROGRAM_NOT_THERE: N_("{program} is not there"),
    ReasonCode.NOTHING_TO_START: N_("says nothing to start"),
    ReasonCode.CONDITIONS_NOT_MET: N_("its conditions were not met"),
    ReasonCode.NOT_A_PLAIN_FILE: N_("not a plain file"),
    ReasonCode.UNREADABLE: N_("cannot be read: {system}"),
    ReasonCode.TOO_LARGE: N_("too large to be a desktop entry"),
    ReasonCode.NOT_A_TEXT: N_("not a text file"),
    ReasonCode.NO_DESKTOP_ENTRY: N_("has no readable desktop entry in it"),
    # When a timer starts an entry.
    ReasonCode.ON_CALENDAR: N_("runs {calendar}"),
    ReasonCode.AFTER_KERNEL: lambda facts: say(
        "{span} after the kernel started", span=_span(facts)
    ),
    ReasonCode.AFTER_MANAGER: lambda facts: say(
        "{span} after the service manager started", span=_span(facts)
    ),
    ReasonCode.AFTER_TIMER: lambda facts: say(
        "{span} after the timer was started", span=_span(facts)
    ),
    ReasonCode.AFTER_LAST_RUN: lambda facts: say("{span} after it ran last", span=_span(facts)),
    ReasonCode.AFTER_LAST_END: lambda facts: say("{span} after it ended last", span=_span(facts)),
    ReasonCode.AFTER_SERVICES: lambda facts: say(
        "{span} after the services began", span=_span(facts)
    ),
    # Why an entry cannot be switched, and what starts it besides the PC's start.
    ReasonCode.NOT_FOUND_HERE: N_("it is not on this PC any more"),
    ReasonCode.UNKNOWN_SPECIFIER: N_("its file asks for {text}, which is not understood here"),
    ReasonCode.WANTED_BY: N_("started by {names}"),
    ReasonCode.TRIGGERED_BY: N_("started through {names}"),
    ReasonCode.SWITCHED_WITH: N_("started through {names}, switched off and on with it"),
    ReasonCode.STARTED_BY_BUS: N_("started by the first call to {name} on the bus"),
    # What a restart would end.
    ReasonCode.OTHERS_SIGNED_IN: N_("Also signed in, and losing what is open: {names}."),
    ReasonCode.HOLDS_UP_RESTART: N_("{who} asks not to restart now: {why}."),
    # What changed without being posted.
    ReasonCode.NEW_ENTRY: N_("{name} is new"),
    ReasonCode.GONE_ENTRY: N_("{name} is gone"),
    ReasonCode.SET_ON: N_("{name} was switched on"),
    ReasonCode.SET_OFF: N_("{name} was switched off"),
    ReasonCode.UPDATED: N_("{name} was updated: {package}"),
    ReasonCode.MEMORY_CHANGED: lambda facts: say(
        "memory {now} instead of {before}",
        now=memory_size(int(facts["now"])),
        before=memory_size(int(facts["before"])),
    ),
    ReasonCode.DRIVES_CHANGED: N_("other drives"),
    ReasonCode.KERNEL_CHANGED: N_("kernel {now} instead of {before}"),
    ReasonCode.PACKAGES_CHANGED: _packages_changed,
    ReasonCode.CAME_BACK: N_("{name} was switched off and started all the same"),
    ReasonCode.UPDATE_PUT_BACK: N_(
        "{name} was switched off and is back since its package was updated: {package}"
    ),
    # What can be pointed out about an entry.
    ReasonCode.GONE: lambda facts: say(
        "{program} does not exist any more", program=facts["program"] or say("its program")
    ),
    ReasonCode.ALSO_STARTED_BY: N_("the same program is also started by {names}"),
    ReasonCode.MARKED_BY_PC: N_("marked so by the PC"),
    ReasonCode.ONLY_LOOKS_FOR_UPDATES: _word(
        "it seems to do nothing but look for updates: “{word}” in {source}"
    ),
    ReasonCode.PROTECTS: _word("it seems to protect the PC: “{word}” in {source}"),
    ReasonCode.NEEDED_TO_SIGN_IN: _word(
        "signing in or the desktop depends on it: “{word}” in {source}"
    ),
    ReasonCode.KEEPS_REACHABLE: _word(
        "the PC may be out of reach without it: “{word}” in {source}"
    ),
    ReasonCode.PART_OF_SYSTEM: N_("it is part of the system, which may not start without it"),
    # What went wrong with an activity.
    ReasonCode.FAILED: N_("failed: {result}"),
    # What cannot be right about marks.
    ReasonCode.MARKS_REVERSED: _reversed,
    ReasonCode.MARK_NO_TIME: lambda facts: say(
        "“{mark}” is not a time: type seconds such as {example}.",
        mark=label(Mark(str(facts["mark"]))),
        example=number(21.4, 1),
    ),
    # What a recorder has to say.
    ReasonCode.READS_NOT_PERMITTED: N_(
        "There was no permission to read the disk use of other users' programs: it is recorded as "
        "unknown. Record as administrator to have it."
    ),
    ReasonCode.CLOCK_SET: _clock_set,
    ReasonCode.COUNTERS_OLDER: lambda facts: say(
        "This PC's counters had begun before it was started, as in a container or a restored "
        "machine: {amount} of CPU work from before are left out.",
        amount=_seconds(facts, 0),
    ),
    ReasonCode.FROM_TABLE: lambda facts: say(
        "Its samples were written by another program, into the table {name}.",
        name=facts.get("name", ""),
    ),
    ReasonCode.NO_SERVICE_MANAGER: _with_because(
        "The service manager did not answer on this PC, so its services and the system up mark "
        "are not known ({why})."
    ),
    ReasonCode.NO_USER_SERVICES: _with_because("The user's services are not known: {why}."),
    ReasonCode.SERVICES_MISSING: _how_many(
        "What {missing} of {asked} services did at this boot is not known: the service manager "
        "ceased to answer ({why})."
    ),
    ReasonCode.USER_SERVICES_MISSING: _how_many(
        "What {missing} of the user's {asked} services did at this boot is not known: their "
        "manager ceased to answer ({why})."
    ),
    ReasonCode.NO_SWITCHED_OFF: _with_because("What is switched off is not known: {why}."),
    ReasonCode.NO_SIGN_IN_TIME: _with_because("The time of signing in is not known: {why}."),
    ReasonCode.OTHER_PEOPLE: lambda facts: say_n(
        "{n} other person has programs of their own on this PC; what these start is not listed.",
        "{n} other people have programs of their own on this PC; what these start is not listed.",
        int(facts["people"]),
    ),
    ReasonCode.LINE_OF_A_FILE: N_("to switch it off, put a # before this line in {file}: {line}"),
    ReasonCode.LINE_OF_OWN_TABLE: N_(
        "to switch it off, run “crontab -e” as {user} and put a # before this line: {line}"
    ),
    ReasonCode.SCRIPT_OF_A_FOLDER: N_(
        "to switch it off, take away its right to run: chmod -x {file}"
    ),
    ReasonCode.FILE_OF_THE_BUS: N_(
        "another program has the bus start it when it is needed; to keep it from that, copy {file} "
        "to {folder} and write Exec=/bin/false there"
    ),
    ReasonCode.OF_ANOTHER_PERSON: N_("to switch it, sign in as {person}: it starts with theirs"),
    ReasonCode.LINE_OF_FSTAB: N_(
        "to keep the start from waiting for it, add nofail to its options in {file} (or "
        "x-systemd.automount, and it is mounted when it is first used): {line}"
    ),
    ReasonCode.LINE_NOT_THERE: N_("its line is not there, or you may not read it"),
    ReasonCode.NIGHT_NEEDS_MANAGER: N_(
        "no service manager runs this PC that could start it at each boot; record boots in turns"
    ),
    ReasonCode.SCRIPT_NOT_THERE: N_("its script is not there, or you may not read it"),
    ReasonCode.SCRIPT_NOT_ORDERED: N_(
        "what orders the scripts at the start does not know it yet: as administrator, "
        "“update-rc.d {name} defaults”, then “update-rc.d {name} enable”"
    ),
    ReasonCode.NO_LOG: _with_because("How the PC was started is not known: {why}."),
    ReasonCode.NO_PACKAGES: _with_because(
        "Which package a program belongs to is not known: {why}."
    ),
    # Why nothing, or not all, came of asking.
    ReasonCode.NO_BUS_PACKAGE: N_("the D-Bus package is not installed"),
    ReasonCode.NO_BUS: N_("no message bus is running"),
    ReasonCode.TIME_UP: lambda facts: (
        say("no answer within {limit}", limit=_seconds(facts, 0))
        if facts.get("seconds")
        else say("it took too long")
    ),
    ReasonCode.BROKEN_CONNECTION: lambda facts: str(facts["system"] or say("the connection broke")),
    ReasonCode.ERROR_REPLY: N_("{name}"),
    ReasonCode.ONLY_ERRORS: N_("the service on the bus answered with errors only"),
    ReasonCode.UNREADABLE_ANSWER: lambda facts: (
        say("it answered in a way that cannot be read: {told}", told=str(facts["told"]))
        if facts.get("told")
        else say("it answered in a way that cannot be read")
    ),
    ReasonCode.ANSWER_TOO_LARGE: N_("the answer was too large"),
    ReasonCode.ASKING_STOPPED: N_("recording was to end at once"),
    # What a comparison rests on, or why it is unproven.
    ReasonCode.NO_SPREAD: N_("One boot a side says nothing about the spread: record more boots."),
    ReasonCode.FEW_BOOTS: N_("Fewer than three boots a side get no verdict: record more boots."),
    ReasonCode.NOT_SURE_ENOUGH: _unproven(
        "The interval excludes zero, but not surely enough when each new boot is looked at"
    ),
    ReasonCode.ONE_OF_MANY: N_("With so many measures, one may show as much by chance."),
    ReasonCode.AT_LEAST_BEFORE: N_(
        "A boot before did not settle within its recording: at least this much."
    ),
    ReasonCode.AT_LEAST_AFTER: N_(
        "A boot after did not settle within its recording: at least this much."
    ),
    ReasonCode.NOT_SETTLED_IN_RECORDING: N_(
        "A boot did not settle within its recording. Record longer, so that it can."
    ),
    ReasonCode.BOTH_SIDES_OF_ZERO: _unproven("The interval reaches both sides of zero"),
    ReasonCode.PARTLY_NOTICEABLE: _unproven(
        "The interval reaches from noticeable to not noticeable"
    ),
    ReasonCode.MACHINE_MOVED: lambda facts: say(
        "The PC itself was {speed} in the later round ({control}).",
        speed=_speed(facts),
        control=control(facts["control"]),
    ),
    ReasonCode.MACHINE_DECIDES: _machine_decides,
    ReasonCode.LINE_OR_STEP: N_(
        "The boots got steadily slower or quicker within their rounds. In rounds recorded one "
        "after the other, that looks the same as a change: record boots of both states in turns."
    ),
    ReasonCode.MAY_BE_ANOTHERS: lambda facts: say(
        "{name} worked on one side only, and that may be the whole difference: leave it out, or "
        "set aside the boots in which it worked.",
        name=shown(str(facts["name"])),
    ),
    ReasonCode.WORKED_BEFORE_ALONE: lambda facts: say(
        "In all boots before, {name} worked for {cpu} CPU·s, and in none after. That is not part "
        "of this change.",
        name=shown(str(facts["name"])),
        cpu=tenths(float(facts["cpu_seconds"])),
    ),
    ReasonCode.WORKED_AFTER_ALONE: lambda facts: say(
        "In all boots after, {name} worked for {cpu} CPU·s, and in none before. That is not part "
        "of this change.",
        name=shown(str(facts["name"])),
        cpu=tenths(float(facts["cpu_seconds"])),
    ),
    ReasonCode.CONTROL_TOO_SHORT: lambda facts: say(
        "The {control} is too short here to tell how fast the PC was.",
        control=control(facts["control"]),
    ),
    ReasonCode.CONTROL_SCATTERS: lambda facts: say(
        "The {control} scatters by {share} here: it does not tell how fast the PC was.",
        control=control(facts["control"]),
        share=percent(float(facts["share"])),
    ),
    ReasonCode.NO_CONTROL: lambda _facts: say(
        "Nothing here tells how fast the PC itself was: had it been faster in one of the two "
        "rounds, that would count as what was changed. Boots in turns would tell."
    ),
    # Why a night shift ended.
    ReasonCode.LEFT_OUT_OF_JOURNAL: lambda facts: say(
        "{path} is left out of the journal of changes: {why}.",
        path=str(facts["path"]),
        why=_because({name: fact for name, fact in facts.items() if name != "path"}),
    ),
    ReasonCode.OTHERS_MAY_WRITE_IT: N_("other accounts than its owner's can write to it"),
    ReasonCode.OF_A_NEWER_VERSION: N_("it was written by a newer Plucky Ledger"),
    ReasonCode.NO_JOURNAL_OF_CHANGES: N_("it is damaged or no journal"),
    ReasonCode.WRITES_ELSEWHERE: N_("it writes where no startup entry lies"),
    ReasonCode.NIGHT_THROUGH: N_("all boots are done"),
    ReasonCode.NIGHT_EXACT_ENOUGH: N_("every cost is known exactly enough"),
    ReasonCode.NIGHT_IS_OVER: N_("the end time was reached"),
    ReasonCode.NIGHT_STOPPED: N_("it was stopped by hand"),
    ReasonCode.NIGHT_SOMEBODY_CAME: N_("a person signed in and pressed a key"),
    ReasonCode.NIGHT_HELD_UP: lambda facts: say(
        "a restart was held up too long by {by}", by=str(facts.get("by", ""))
    ),
    ReasonCode.NIGHT_NOT_RECORDED: N_("two boots were not recorded to their end"),
    ReasonCode.NIGHT_DISARMED: N_("recording was disarmed"),
    ReasonCode.NIGHT_FAILED: N_(
        "Plucky Ledger hit an internal error; the PC's log has the details"
    ),
    ReasonCode.NIGHT_ON_BATTERY: N_("the PC ran on its battery"),
    ReasonCode.NIGHT_TOO_HOT: N_("the PC got too hot"),
    ReasonCode.NIGHT_BOOT_NEVER_CAME: N_("a boot did not come up in three times its usual time"),
    ReasonCode.NIGHT_NOT_SWITCHED: N_("an entry could not be switched"),
    ReasonCode.NIGHT_NOT_RESTARTED: N_("the PC could not be restarted"),
    # What makes a comparison unfair.
    ReasonCode.KERNEL_DIFFERS: _differs_in_text(
        "The kernel differs: {before} before, {after} after."
    ),
    ReasonCode.START_DIFFERS: _differs(
        "The kind of start differs: {before} before, {after} after.", StartKind
    ),
    ReasonCode.POWER_DIFFERS: _differs(
        "The power source differs: {before} before, {after} after.", PowerSource
    ),
    ReasonCode.USER_DIFFERS: _differs_in_text(
        "Who signed in differs: {before} before, {after} after."
    ),
    ReasonCode.HARDWARE_DIFFERS: _differs_in_text(
        "The hardware differs: {before} before, {after} after."
    ),
    ReasonCode.HOW_DIFFERS: _differs(
        "The way of measuring differs: {before} before, {after} after.", How
    ),
    ReasonCode.MACHINE_DRIFTED: lambda facts: say(
        "The PC itself was {speed} after ({control}): boots taken in turns, before and after, "
        "would cancel that.",
        speed=_speed(facts),
        control=control(facts["control"]),
    ),
    ReasonCode.ODD_CONTROL: lambda facts: say(
        "In boot {boot} {side} the PC itself was {speed} ({control}).",
        boot=int(facts["boot"]),
        side=label(Side(str(facts["side"]))),
        speed=_speed(facts),
        control=control(facts["control"]),
    ),
    ReasonCode.BUSY_BOOTS: _busy,
    ReasonCode.BOOT_SET_ASIDE: lambda facts: say(
        "A boot {side} is set aside: {why}.", side=label(Side(str(facts["side"]))), why=facts["why"]
    ),
    ReasonCode.CUT_SHORT: N_("its recording ended too early"),
    ReasonCode.PC_IS_ELSEWHERE: N_("the job's PC is another one than this"),
    ReasonCode.NO_BOOT_OF_IT: N_("no boot has been recorded in the state it is in"),
    ReasonCode.RESTART_IS_DUE: N_("a restart is due first"),
    ReasonCode.NOTHING_IS_COMPARED: N_(
        "the line compares no two states; post a change and record a boot of it first"
    ),
    ReasonCode.CANNOT_GO_BACK: N_(
        "the earlier state cannot be brought back; what differs was changed elsewhere, before the "
        "PC came in again"
    ),
    ReasonCode.NOBODY_SIGNED_IN: N_("there was no sign-in, so it never settled"),
    ReasonCode.NOT_KNOWN_YET: lambda facts: (
        say_n(
            "not known yet: {n} more boot would tell",
            "not known yet: {n} more boots would tell",
            int(facts["more"]),
        )
        if facts["more"]
        else say("not known yet")
    ),
    ReasonCode.UPDATES_RUNNING: N_("updates were installing"),
    ReasonCode.DISK_CHECKED: N_("a disk was checked"),
    ReasonCode.SLEPT_MEANWHILE: N_("the PC slept meanwhile"),
    ReasonCode.RESUMED: N_("it is a resume, not a start"),
    # What became of a recording.
    ReasonCode.READ_BY_ANOTHER: N_(
        "{other} uses files that {name} has read into memory, and would have to read them itself"
    ),
    ReasonCode.WAITED_FOR_BY_ANOTHER: N_("{other} checks again and again until {name} is running"),
    ReasonCode.HELD_LATER: N_("Memory and processes are read some minutes after settled."),
    ReasonCode.LOOKED_ON: N_(
        "What the PC did in the minutes after settled is in the book as well."
    ),
    ReasonCode.KNOWN_BOOT: lambda facts: say(
        "This boot of {when} is in the book already and was not counted twice. Restart the PC to "
        "record another.",
        when=day_and_time(datetime.fromisoformat(str(facts["started_at"]))),
    ),
    ReasonCode.IN_THE_BOOK: N_("The boot is in the book."),
    ReasonCode.CLOCK_WAS_AHEAD: N_(
        "The clock was ahead when the last changes were posted: the boot counts for them because "
        "it came into the book later."
    ),
    ReasonCode.BEFORE_POSTING: N_(
        "It began before what was posted last, so it stands in the round before. Restart the PC, "
        "so that the changes count."
    ),
    ReasonCode.KEPT_DAMAGED: N_(
        "Its recording is damaged from line {line} on; what came before is kept."
    ),
    ReasonCode.KEPT_CUT_SHORT: N_("Its recording ended too early; what came before is kept."),
    ReasonCode.NOT_BEFORE: lambda facts: say(
        "The PC had not settled when the recording ended: not before {instant}.",
        instant=_seconds(facts, 0),
    ),
    ReasonCode.CALM_WHEN_FIRST_SEEN: N_(
        "The PC was already calm when recording began, so it is not known when it settled."
    ),
    ReasonCode.READ_AT_REST: N_(
        "It is in the book as a reading at rest: it was begun long after the start, so it shows "
        "what the PC holds and runs at rest, but no boot times. Restart the PC to record a boot."
    ),
    # Why a recording ended.
    ReasonCode.WAS_AT_REST: N_("the PC was at rest"),
    ReasonCode.TIME_WAS_UP: N_("it took too long"),
    ReasonCode.RECORDING_FULL: N_("the recording reached its largest size"),
    ReasonCode.STOPPED_BY_HAND: N_("stopped by hand"),
    ReasonCode.READ_FROM_JOURNAL: N_("read from the log"),
}
"""Every code has its words here; a test holds it to that."""

_WITHOUT_SIDES: Mapping[ReasonCode, str] = {
    ReasonCode.KERNEL_DIFFERS: N_("the kernel differs from the other boots"),
    ReasonCode.START_DIFFERS: N_("the kind of start differs from the other boots"),
    ReasonCode.POWER_DIFFERS: N_("the power source differs from the other boots"),
    ReasonCode.USER_DIFFERS: N_("who signed in differs from the other boots"),
    ReasonCode.HARDWARE_DIFFERS: N_("the hardware differs from the other boots"),
    ReasonCode.HOW_DIFFERS: N_("the way of measuring differs from the other boots"),
}


def concern_in_words(reason: Reason) -> str:
    """What speaks against comparing one boot with the others."""
    lone = _WITHOUT_SIDES.get(reason.code)
    return say(lone) if lone is not None else reason_in_words(reason)


def _span(facts: Facts) -> str:
    return round_span(float(facts["seconds"]))


def boots_n(count: int) -> str:
    """A number of boots."""
    return say_n("{n} boot", "{n} boots", count)
