"""The night shift in words."""

from plucky_ledger.usecases.recording.night_report import NightBoot, NightReport
from plucky_ledger.usecases.recording.night_shift import Night
from plucky_ledger.wording.figures import length_of_time
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.reasons import reason_in_words
from plucky_ledger.wording.safe import shown


def begun(night: Night) -> str:
    """What goes on from the next restart."""
    return f"{say('It begins with the next restart.')} {measured(night)}"


def measured(night: Night) -> str:
    """What a night shift measures, and how long it takes."""
    names = shown(", ".join(entry.name for entry in night.entries))
    goes_on = say_n(
        "The PC restarts itself {n} time at most, about {time} in all.",
        "The PC restarts itself {n} times at most, about {time} in all.",
        night.boots,
        time=length_of_time(night.minutes * 60),
    )
    return f"{goes_on} {say('Measured: {names}.', names=names)}"


def notice() -> str:
    """What is shown at the PC after each start."""
    return say(
        "Plucky Ledger measures this PC tonight and restarts it by itself. To end that, sign in "
        "and press a key within two minutes of a start."
    )


def standing(report: NightReport | None) -> str:
    """How the last night shift stands."""
    if report is None:
        return say("There was no night shift on this PC.")
    count = say("{boots} of {planned} boots", boots=len(report.boots), planned=report.planned)
    if report.ended is None:
        return say(
            "The night shift of job {job} is running: {count}.", job=shown(report.job), count=count
        )
    why = reason_in_words(report.ended)
    sentence = say(
        "The night shift of job {job} is over after {count}: {why}.",
        job=shown(report.job),
        count=count,
        why=why,
    )
    if report.left:
        names = shown(", ".join(report.left))
        return f"{sentence} {say('Not as it was at the beginning: {names}.', names=names)}"
    if report.restored:
        return f"{sentence} {say('Everything is as it was at the beginning, byte for byte.')}"
    return f"{sentence} {say('What is still switched is put back at the next start.')}"


def boots_in_words(report: NightReport) -> list[str]:
    """A line for each boot: its state, and what was recorded of it."""
    return [
        say(
            "boot {number}: {state}; {recorded}",
            number=place,
            state=_state(boot),
            recorded=_recorded(boot),
        )
        for place, boot in enumerate(report.boots, 1)
    ]


def _state(boot: NightBoot) -> str:
    if boot.off is None:
        return say("switching was interrupted")
    if not boot.off:
        return say("everything on")
    return say("off: {names}", names=shown(", ".join(boot.off)))


def _recorded(boot: NightBoot) -> str:
    if boot.cut:
        return say("interrupted")
    if boot.recorded is None:
        return say("being recorded")
    return say("recorded to its end") if boot.recorded else say("not recorded to its end")
