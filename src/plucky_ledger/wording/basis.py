"""What a figure rests on, in words: the boots, the method, and where the method is explained."""

from dataclasses import dataclass

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.replay.startup_cost import StartupCost
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.basis import LineBasis
from plucky_ledger.pages.lanes_table import LaneFigures
from plucky_ledger.pages.load import LoadPage
from plucky_ledger.wording.figures import day_and_time, number, percent, tenths, with_unit
from plucky_ledger.wording.intervals import estimated, interval
from plucky_ledger.wording.labels import capital, label
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.load import LoadWords, sums_in_words
from plucky_ledger.wording.reasons import boots_n, reason_in_words
from plucky_ledger.wording.safe import shown

ODD = 0.5
"""Chance from which on a boot is said to have gone wrong."""


@dataclass(frozen=True)
class Basis:
    """What a figure rests on."""

    title: str
    sentences: tuple[str, ...]
    section: str
    """Heading of the section of the method pages that explains it."""


def of_line(basis: LineBasis) -> Basis:
    """What a line of the book rests on."""
    measure, balance = basis.measure, basis.balance
    counting = [boot for boot in basis.boots if boot.counts and measure in boot.readings]
    title = label(measure)
    if balance is None:
        return Basis(title, (say("No boot of this line has this measure."),), _section(measure))
    shown_balance = with_unit(balance.value, measure)
    sentences = [
        say(
            "{balance} is the typical value of {boots} in this state of the PC: the middle of the "
            "means of all pairs of boots, so that one odd boot moves it little.",
            balance=shown_balance,
            boots=boots_n(len(counting)),
        )
    ]
    if len(basis.boots) > basis.own:
        sentences.append(
            say("They were recorded at different times; the state of the PC was the same.")
        )
    likely = basis.likely if len(basis.likely) == len(counting) else (0.0,) * len(counting)
    sentences += [_boot(boot, measure, odd) for boot, odd in zip(counting, likely, strict=True)]
    sentences += [
        say(
            "{when}: set aside, {why}",
            when=day_and_time(boot.started_at),
            why=shown(boot.set_aside),
        )
        for boot in basis.boots
        if not boot.counts
    ]
    if basis.shift is not None and (span := interval(basis.shift)):
        sentences.append(
            say(
                "Compared with {before} before, the 95 % interval of what was saved or lost is "
                "{span}: {verdict}.",
                before=boots_n(basis.shift.before.boots),
                span=span,
                verdict=label(basis.shift.verdict),
            )
        )
    return Basis(f"{capital(title)}, {shown_balance}", tuple(sentences), _section(measure))


def _boot(boot: Boot, measure: Measure, odd: float) -> str:
    reading = boot.readings[measure]
    value = with_unit(reading.value, measure)
    if reading.censored:
        value = say("at least {value}", value=value)
    facts = {"when": day_and_time(boot.started_at), "value": value, "how": label(boot.how)}
    if odd >= ODD:
        return say(
            "{when}: {value} ({how}), odd with a chance of {chance}, so it counts for less",
            **facts,
            chance=percent(odd),
        )
    return say("{when}: {value} ({how})", **facts)


def _section(measure: Measure) -> str:
    return "Settled" if measure is Measure.SETTLED else "The other measures"


def of_entry(name: str, cost: StartupCost | None) -> Basis:
    """What the cost of an entry rests on."""
    title = say("What {name} costs", name=shown(name))
    section = "What an entry costs in seconds: the replay"
    if cost is None:
        return Basis(title, (say("Its cost is not known yet."),), section)
    estimate = cost.settled or cost.system_up
    if estimate is None:
        why = reason_in_words(cost.no_grade) if cost.no_grade else say("not known")
        return Basis(title, (say("It has no figure in seconds: {why}.", why=why),), section)
    measure = label(Measure.SETTLED if cost.settled else Measure.SYSTEM_UP)
    sentences = [
        say(
            "{measure} would come {seconds} s earlier without it; 95 % interval {span} s.",
            measure=capital(measure),
            seconds=tenths(estimate.value),
            span=estimated(estimate),
        ),
        say_n(
            "The recorded boot was replayed without it; the interval includes the error that "
            "replays were found to make.",
            "Each of the {n} recorded boots was replayed without it; the interval includes what "
            "they differ by, and the error that replays were found to make.",
            cost.boots,
        ),
    ]
    if cost.per_boot:
        each = ", ".join(tenths(value) for value in cost.per_boot)
        sentences.append(say("Boot by boot, in seconds: {each}.", each=each))
    return Basis(title, tuple(sentences), section)


def of_lane(figures: LaneFigures, cost: StartupCost | None) -> Basis:
    """What a lane rests on: its cost, and where its silhouette comes from."""
    basis = of_entry(figures.lane.name, cost)
    silhouette = say(
        "Its silhouette shows {cpu} CPU·s and {drive} s of disk time, from its programs' own "
        "counters between samples; hatched is the time other programs slowed it down, {held_up} "
        "s.",
        cpu=tenths(figures.cpu_seconds),
        drive=tenths(figures.drive_seconds),
        held_up=tenths(figures.held_up_seconds),
    )
    return Basis(basis.title, (*basis.sentences, silhouette), basis.section)


def of_load(words: LoadWords | None, page: LoadPage) -> Basis:
    """What a row of the load rests on, or the sums where none is chosen."""
    start, end = number(page.span[0]), number(page.span[1])
    cpu, read = page.unexplained
    sentences = [
        say(
            "From the counters of every program and of the machine, from {start} to {end} s after "
            "the start; memory and processes are those at its end.",
            start=start,
            end=end,
        ),
        say(
            "In all: {sums}. Explained by no program's counters: {cpu} of the CPU work, {read} "
            "of what was read.",
            sums=sums_in_words(page),
            cpu=percent(cpu),
            read=percent(read),
        ),
    ]
    if words is not None and words.remark:
        sentences.append(f"{words.name}: {words.remark}.")
    title = words.name if words is not None else say("What each program used")
    return Basis(title, tuple(sentences), "Whose work it was")
