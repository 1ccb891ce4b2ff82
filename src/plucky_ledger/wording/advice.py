"""Advice in words: what was seen, what to do, what it wins and takes, what speaks against it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from plucky_ledger.core.advice.finding import (
    Curve,
    Drawing,
    Finding,
    Gauge,
    Stretch,
    Sureness,
    Tally,
)
from plucky_ledger.core.advice.rules import FULL_MEMORY, ROOM_PER_MEMORY, WAITS_FOR_MEMORY, Effort
from plucky_ledger.core.job.advised import Advised, RuleCode
from plucky_ledger.core.values.reasons import Fact
from plucky_ledger.pages.why import WhyAnswer, WhyPage
from plucky_ledger.wording.figures import (
    between,
    memory_size,
    milliseconds,
    number,
    percent,
    seconds,
    size,
    tenths,
)
from plucky_ledger.wording.intervals import estimated
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.reasons import boots_n, reason_in_words
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.spoken import SpokenRow

Facts = Mapping[str, Fact]
SPOKEN_STRETCHES = 10
"""Into how many stretches a course is told to who does not see it."""


@dataclass(frozen=True)
class AdviceWords:
    """One finding in words."""

    title: str
    seen: str
    """What was seen, with its figures."""
    to_do: str
    against: str
    """What speaks against it."""
    change: str
    """What is pencilled; empty where nothing is."""


def advice_in_words(finding: Finding | Advised) -> AdviceWords:
    """A finding in words, fit to be shown."""
    title, seen, to_do, against, change = _WORDS[finding.rule]
    return AdviceWords(
        say(title), seen(finding.facts), say(to_do), say(against), say(change) if change else ""
    )


def wins(finding: Finding | Advised) -> str:
    """What following it would win: seconds with their interval, and where it would settle; empty
    where nothing can tell beforehand.
    """
    saved, settled = finding.saves, finding.settled
    if saved is None:
        return ""
    if saved.low <= 0:
        return say("It costs {seconds} at most today.", seconds=seconds(max(saved.high, 0.0)))
    sentence = say(
        "It costs {seconds} today ({span}).", seconds=seconds(saved.value), span=estimated(saved)
    )
    if settled is None:
        return sentence
    then = say("The PC would settle at {span} s.", span=estimated(settled))
    return f"{sentence} {then}"


EFFORTS: Mapping[Effort, str] = {
    Effort.MINUTES: N_("takes minutes"),
    Effort.HOUR: N_("takes about an hour"),
    Effort.PART: N_("needs a part and about an hour"),
}
SURENESS: Mapping[Sureness, str] = {
    Sureness.SEEN: N_("measured"),
    Sureness.LIKELY: N_("likely"),
}


def for_the_owner(advised: Advised) -> tuple[str, str]:
    """Advice in the statement: its title, and what was seen, what it costs and what to do."""
    words = advice_in_words(advised)
    return words.title, " ".join(filter(None, (words.seen, wins(advised), words.to_do)))


def takes(finding: Finding) -> str:
    """How sure it is and what it takes."""
    return f"{say(SURENESS[finding.sureness])} · {say(EFFORTS[finding.effort])}"


def drawing_in_words(drawing: Drawing | None) -> str:
    """What a small picture of evidence shows."""
    match drawing:
        case Curve(of, seconds_seen):
            names = {"disk": say("disk"), "cpu": say("CPU"), "memory": say("memory")}
            return say("{what}, {seconds} s", what=names[of], seconds=number(seconds_seen[-1]))
        case Gauge(_, share, mark, less):
            limit = percent(mark)
            text = say("least {limit}", limit=limit) if less else say("most {limit}", limit=limit)
            return f"{percent(share)} · {text}"
        case Tally(some, of):
            if of is None:
                return number(some)
            return say("{some} of {of}", some=number(some), of=number(of))
        case Stretch(begin, end):
            return say("{begin} to {end} s", begin=number(begin), end=number(end))
        case None:
            return ""


def spoken_drawing(drawing: Drawing | None) -> tuple[SpokenRow, ...]:
    """The course that a curve of evidence shows; of any other picture its name says all."""
    if not isinstance(drawing, Curve):
        return ()
    return tuple(
        SpokenRow(between(seconds(begin, 0), seconds(end, 0)), (percent(share),))
        for begin, end, share in drawing.stretches(SPOKEN_STRETCHES)
    )


def in_short(page: WhyPage) -> str:
    """The answer as one sentence."""
    match page.answer:
        case WhyAnswer.NOTHING_MEASURED:
            return say("Record a boot first: advice needs evidence.")
        case WhyAnswer.FINE:
            return say("This PC is fine: no check found a fault.")
        case WhyAnswer.NOT_ALL_SEEN:
            return say("No check found a fault, but parts of this PC could not be read.")
        case WhyAnswer.NOT_JUDGED:
            return say("No check found a fault, but none of its boots could be replayed.")
        case WhyAnswer.ENTRIES_COST:
            return _entries_cost(page)
        case WhyAnswer.DATA_FIRST:
            return say("Save the data first: a drive is failing.")
        case WhyAnswer.FOUND:
            return _first(page.findings[0], page.settled_seconds)


def _entries_cost(page: WhyPage) -> str:
    assert page.unneeded is not None
    return say_n(
        "The PC itself is fine. {n} entry not marked as needed costs {part} of its start "
        "({share}): see Entries.",
        "The PC itself is fine. {n} entries not marked as needed cost {part} of its start "
        "({share}): see Entries.",
        page.unneeded.entries,
        part=seconds(page.unneeded.saves.value),
        share=percent(page.unneeded.share),
    )


def _first(finding: Finding, settled_seconds: float) -> str:
    """The costliest finding, with what it costs of the whole where that is certain."""
    title, saved = say(_WORDS[finding.rule][0]), finding.saves
    if saved is None or saved.low <= 0 or settled_seconds <= 0 or finding.settled is None:
        return f"{title}."
    whole = seconds(settled_seconds)
    return say("{title}: {part} of {whole}.", title=title, part=seconds(saved.value), whole=whole)


def rests_on(page: WhyPage) -> str:
    """What the answer rests on."""
    boots = say(
        "Based on {boots} in the PC's present state and its hardware.",
        boots=boots_n(page.boots),
    )
    if page.boots and not page.replayed:
        boots += " " + say("They could not be replayed, so no seconds are given.")
    if page.unseen is not None:
        boots += f" {reason_in_words(page.unseen)}"
    condition = page.condition
    if condition.maker or condition.model:
        return f"{shown(f'{condition.maker} {condition.model}'.strip())} · {boots}"
    return boots


def _drive(facts: Facts) -> str:
    drive = shown(f"{facts['drive']} {facts['model']}".strip())
    parts = []
    if facts.get("failing"):
        parts.append(say("{drive} reports itself that it is failing.", drive=drive))
    if errors := int(facts["errors"]):
        parts.append(
            say_n(
                "The kernel's log of this boot has {n} error of {drive}.",
                "The kernel's log of this boot has {n} errors and resets of {drive}.",
                errors,
                drive=drive,
            )
        )
    if bad := int(facts.get("bad_sectors", 0)):
        parts.append(
            say_n(
                "{drive} counts {n} bad sector.",
                "{drive} counts {n} bad sectors.",
                bad,
                drive=drive,
            )
        )
    if "worn" in facts:
        parts.append(
            say(
                "{drive} has used up {share} of its life, by its own account.",
                drive=drive,
                share=percent(float(facts["worn"])),
            )
        )
    return " ".join(parts)


def _check_due(facts: Facts) -> str:
    where, errors = shown(str(facts["where"])), int(facts["errors"])
    if not errors:
        return say("The check of {where} is overdue.", where=where)
    return say_n(
        "The kernel has found {n} error in the file system at {where}.",
        "The kernel has found {n} errors in the file system at {where}.",
        errors,
        where=where,
    )


def _drive_pinned(facts: Facts) -> str:
    kind = say("A rotating disk") if facts["rotating"] else say("The disk")
    settles = say("until the PC has settled ({seconds})", seconds=seconds(float(facts["seconds"])))
    sentence = say(
        "{drive} is busy {share} of the time {until}, and moves only {speed} a second.",
        drive=kind,
        share=percent(float(facts["share"])),
        until=settles if facts["settles"] else say("while it was recorded (it never settled)"),
        speed=size(float(facts["bytes_per_second"])),
    )
    if "answer_seconds" not in facts:
        return sentence
    answers = say("It answers in {time}.", time=milliseconds(float(facts["answer_seconds"])))
    return f"{sentence} {answers}"


def _processor(facts: Facts) -> str:
    sentence = say_n(
        "{n} core is busy {share} of the time until the PC has settled.",
        "{n} cores are busy {share} of the time until the PC has settled.",
        int(facts["cores"]),
        share=percent(float(facts["share"])),
    )
    others = int(facts["others"])
    if not others:
        return sentence
    rest = say_n(
        "{n} entry with a noticeable cost is not marked as needed: decide about it first.",
        "{n} entries with a noticeable cost are not marked as needed: decide about them first.",
        others,
    )
    return f"{sentence} {rest}"


def _memory(facts: Facts) -> str:
    parts = [
        say(
            "{held} of {total} are held at rest ({share}; a rule of the trade: {most} at most).",
            held=memory_size(int(facts["held_bytes"])),
            total=memory_size(int(facts["total_bytes"])),
            share=percent(float(facts["share"])),
            most=percent(FULL_MEMORY),
        )
    ]
    if float(facts.get("waiting", 0.0)) >= WAITS_FOR_MEMORY:
        parts.append(
            say(
                "Until it has settled, programs wait for memory {share} of the time.",
                share=percent(float(facts["waiting"])),
            )
        )
    if facts.get("holders"):
        parts.append(say("Most is held by {names}.", names=shown(str(facts["holders"]))))
    if swapped := int(facts["swapped_bytes"]):
        parts.append(say("{size} of it are on the disk (swap).", size=size(swapped)))
    if killed := int(facts["killed"]):
        parts.append(
            say_n(
                "The kernel ended {n} program because memory ran out.",
                "The kernel ended {n} programs because memory ran out.",
                killed,
            )
        )
    if "free_slots" in facts:
        parts.append(say_n("{n} slot is free.", "{n} slots are free.", int(facts["free_slots"])))
    if facts.get("kind"):
        parts.append(say("Memory type: {kind}.", kind=shown(str(facts["kind"]))))
    if "most_bytes" in facts:
        most = memory_size(int(facts["most_bytes"]))
        parts.append(say("It takes at most {size}, says its firmware.", size=most))
    return " ".join(parts)


def _room(facts: Facts) -> str:
    where = shown(str(facts["where"]))
    if facts["files"]:
        return say("{where} can hold hardly any more files, however small.", where=where)
    return say(
        "{free} are free on {where}; there should be {wanted}: {times} times the memory on the "
        "system disk, a twentieth of any other disk.",
        free=size(float(facts["free_bytes"])),
        where=where,
        wanted=size(float(facts["wanted_bytes"])),
        times=number(ROOM_PER_MEMORY),
    )


def _restart(facts: Facts) -> str:
    days = number(float(facts["days"]))
    if facts["now"]:
        sentence = say("The PC was last started {days} days before it was taken in.", days=days)
    else:
        sentence = say("The PC is typically started every {days} days.", days=days)
    wakes = int(facts.get("wakes", 0))
    if not wakes:
        return sentence
    slept = say_n(
        "Its log shows that it woke from sleep {n} time.",
        "Its log shows that it woke from sleep {n} times.",
        wakes,
    )
    return f"{sentence} {slept}"


def _fast_start(facts: Facts) -> str:
    return say(
        "{resumed} of {starts} known starts were no real start: the PC only woke from sleep.",
        resumed=facts["resumed"],
        starts=facts["starts"],
    )


def _heat(facts: Facts) -> str:
    return say("Heat slowed the processor down {n} times in this boot.", n=facts["times"])


def _held_down(facts: Facts) -> str:
    if "share" in facts and float(facts["share"]) < 1:
        return say(
            "On mains, it may use {share} of its highest frequency.",
            share=percent(float(facts["share"])),
        )
    return say("On mains, its power profile is “{profile}”.", profile=shown(str(facts["profile"])))


def _loader(facts: Facts) -> str:
    return say(
        "The boot loader takes {seconds} at every start.",
        seconds=seconds(float(facts["seconds"])),
    )


def _never_comes(facts: Facts) -> str:
    return say(
        "{name} waits {seconds}, does almost no work, and then fails.",
        name=shown(str(facts["name"])),
        seconds=seconds(float(facts["seconds"])),
    )


def _failed(facts: Facts) -> str:
    return say(
        "{n} entries failed to start: {names}.", n=facts["failed"], names=shown(str(facts["names"]))
    )


def _restarts_itself(facts: Facts) -> str:
    return say(
        "{name} stopped and was restarted {n} times in one boot.",
        name=shown(str(facts["name"])),
        n=facts["times"],
    )


def _grows(facts: Facts) -> str:
    sentence = say(
        "{days} days after its start the PC holds {held} at rest; freshly started, {fresh}.",
        days=tenths(float(facts["days"])),
        held=size(float(facts["held_bytes"])),
        fresh=size(float(facts["fresh_bytes"])),
    )
    if not facts["program"]:
        return sentence
    most = say(
        "{program} has grown most, by {size}.",
        program=shown(str(facts["program"])),
        size=size(float(facts["grown_bytes"])),
    )
    return f"{sentence} {most}"


def _same_job(facts: Facts) -> str:
    return say(
        "{n} programs protect this PC: {names}.",
        n=facts["programs"],
        names=shown(str(facts["names"])),
    )


def _updates(facts: Facts) -> str:
    return say(
        "Updates were installed during {n} of {of} starts.", n=facts["starts"], of=facts["of"]
    )


def _stock(facts: Facts) -> str:
    return say(
        "{processes} processes, {entries} startup entries and {memory} more than the same system "
        "fresh from installation.",
        processes=facts["processes"],
        entries=facts["entries"],
        memory=size(max(0.0, float(facts["memory_bytes"]))),
    )


_WORDS: Mapping[RuleCode, tuple[str, Callable[[Facts], str], str, str, str]] = {
    RuleCode.FAILING_DRIVE: (
        N_("A drive is failing"),
        _drive,
        N_("Save the data now, before anything else; then replace the drive."),
        N_(
            "A loose cable or a weak power supply causes the same errors: check them after the "
            "copy."
        ),
        N_("Failing drive replaced"),
    ),
    RuleCode.DRIVE_PINNED: (
        N_("Waiting for the disk"),
        _drive_pinned,
        N_("Fit a solid-state drive (calculated with one that answers ten times as fast)."),
        N_("Switching off entries you do not need saves the same reads and costs nothing."),
        N_("Solid-state drive fitted"),
    ),
    RuleCode.PROCESSOR_PINNED: (
        N_("Waiting for the CPU"),
        _processor,
        N_("Use a PC with cores twice as fast, or start fewer programs."),
        N_("More cores of the same kind would win less: much of a start cannot run in parallel."),
        "",
    ),
    RuleCode.MEMORY_FULL: (
        N_("The memory is full"),
        _memory,
        N_("Fit more memory of the same kind."),
        N_("A program that grows for days fills any memory: see in Load which one holds most."),
        N_("More memory fitted"),
    ),
    RuleCode.LITTLE_ROOM: (
        N_("Too little free disk space"),
        _room,
        N_("Free some: see Disk space."),
        N_("A disk for data alone may be nearly full; the system disk may not."),
        N_("Disk space freed"),
    ),
    RuleCode.NOT_RESTARTED: (
        N_("The PC is hardly ever restarted"),
        _restart,
        N_("Restart it, then measure: that alone can be the cause."),
        N_("A PC that is still quick after weeks does not need it."),
        "",
    ),
    RuleCode.FAST_START: (
        N_("The PC is suspended, not started"),
        _fast_start,
        N_("Switch fast-start hibernation off for a while and restart the PC every day."),
        N_("Waking up is quicker than starting: leave it if the PC stays quick."),
        N_("Fast-start hibernation off"),
    ),
    RuleCode.HEAT: (
        N_("Heat slows the processor down"),
        _heat,
        N_("Clean fans and vents; renew the paste if that is not enough."),
        N_("A thin notebook does so by design when it computes for long."),
        N_("Fans and vents cleaned"),
    ),
    RuleCode.HELD_DOWN: (
        N_("A power setting slows the processor down"),
        _held_down,
        N_("Choose the balanced profile while on mains."),
        N_("The owner may have wanted it quiet."),
        N_("Balanced power profile"),
    ),
    RuleCode.LOADER_WAITS: (
        N_("The boot loader waits before it starts anything"),
        _loader,
        N_("Set its waiting time to one second."),
        N_("With two systems on the PC, the owner may need the time to choose."),
        N_("Waiting time of the boot loader shortened"),
    ),
    RuleCode.NEVER_COMES: (
        N_("Something waits for what never comes"),
        _never_comes,
        N_("Repair what it waits for, or switch it off."),
        N_("Something unplugged only today may be back tomorrow: ask the owner."),
        N_("No longer waits for what never comes"),
    ),
    RuleCode.CHECK_DUE: (
        N_("A file system needs a check"),
        _check_due,
        N_("Save the data, then have it checked at the next start."),
        N_("A check that is overdue only by date mostly finds nothing, and can take an hour."),
        N_("File system checked"),
    ),
    RuleCode.MANY_FAILED: (
        N_("Many entries fail to start"),
        _failed,
        N_("See why in Lanes; switch off what is not needed, repair the rest."),
        N_("What fails at once costs next to nothing."),
        "",
    ),
    RuleCode.RESTARTS_ITSELF: (
        N_("A service starts over and over"),
        _restarts_itself,
        N_("Read its log for the reason; switch it off until it is repaired."),
        N_("Some services are meant to run often and briefly."),
        N_("Service no longer started over and over"),
    ),
    RuleCode.MEMORY_GROWS: (
        N_("Memory fills up over days"),
        _grows,
        N_("Update that program, or restart the PC every few days."),
        N_("A program in use may hold more for good reason."),
        "",
    ),
    RuleCode.SAME_JOB: (
        N_("Several programs do the same job"),
        _same_job,
        N_("Keep one of them; remove the others with their own uninstaller."),
        N_("Two that protect different things (files, network) do not disturb each other."),
        N_("Second program for the same job removed"),
    ),
    RuleCode.UPDATES_AT_SIGN_IN: (
        N_("Updates run while it starts"),
        _updates,
        N_("Let updates be installed later in the day."),
        N_("Updates have to be installed some time: never switch them off."),
        N_("Updates installed at another time"),
    ),
    RuleCode.BEYOND_STOCK: (
        N_("Much has been added since it was installed"),
        _stock,
        N_("If deciding entry by entry takes too long: reinstall the system."),
        N_("That costs the owner's settings and a day; deciding costs minutes."),
        "",
    ),
}
"""Title, what was seen, what to do, what speaks against it, what is pencilled."""
