"""The night shift in words."""

from plucky_ledger.usecases.night_shift import Night, NightReport
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


def standing(report: NightReport | None) -> str:
    """How the last night shift stands."""
    if report is None:
        return say("There was no night shift on this PC.")
    count = say("{boots} of {planned} boots", boots=report.boots, planned=report.planned)
    if report.ended is None:
        return say(
            "The night shift of job {job} goes on: {count}.", job=shown(report.job), count=count
        )
    why = reason_in_words(report.ended)
    sentence = say("The night shift of job {job} is over after {count}: {why}.",
                   job=shown(report.job), count=count, why=why)  # fmt: skip
    if report.restored:
        return f"{sentence} {say('Everything is put back.')}"
    return f"{sentence} {say('What is still switched is put back at the next start.')}"
