"""Commands that bring boots in: imports, arming, past boots; and boots set aside."""

import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.answers import answer_json
from plucky_ledger.cli.common import (
    job_argument,
    job_option,
    job_or_none_argument,
    json_option,
    ledger_option,
    ledger_path,
    new_option,
    opened,
    told_plainly,
)
from plucky_ledger.cli.job_file import keep_option, take_in
from plucky_ledger.cli.output import passing_line, tell
from plucky_ledger.core.pc.arming import LONGEST_LOOK_SECONDS, Afterwards, Level
from plucky_ledger.core.values.endings import JOB_FILE
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.wording.language import say

if TYPE_CHECKING:
    from plucky_ledger.usecases.jobs.opening import Ledger


@click.command("import")
@click.argument("files", nargs=-1, type=click.Path(path_type=Path))
@click.option(
    "--drop",
    type=click.Path(path_type=Path),
    help="A stick, or a folder like one: all that is new on it, each PC into its job.",
)
@click.option(
    "--notify", is_flag=True, help="With --drop: PCs that got slower are told on the desktop, too."
)
@job_option(help="Label of the job; without it a new job is taken in.")
@keep_option
@new_option
@ledger_option
@json_option
def import_files(
    files: tuple[Path, ...],
    drop: Path | None,
    notify: bool,
    label: str | None,
    keep: str | None,
    new: bool,
    ledger: str | None,
    as_json: bool,
) -> None:
    """Import recordings FILES into a job's book, or job files (.plucky-job) as jobs."""
    if bool(files) is (drop is not None):
        raise click.UsageError(say("Name recordings, or a folder after --drop."))
    if notify and drop is None:
        raise click.UsageError(say("--notify is for a folder after --drop."))
    if drop is not None:
        _import_all(drop, notify, ledger, new, as_json)
        return
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.wording.trouble import trouble_in_words

    results: list[dict[str, object]] = []
    with opened(ledger, make=True, new=new) as book:
        number = find_job(book, label) if label else None
        for path in files:
            boot, refused = None, False
            try:
                if path.name.endswith(JOB_FILE):
                    told = take_in(book, path, keep)
                else:
                    number = number if number is not None else _new_job(book, path)
                    boot, told = _imported(book, number, path)
            except Refused as refusal:
                told, refused = trouble_in_words(refusal), True
            results.append({"file": str(path), "boot": boot, "told": told, "refused": refused})
    if as_json:
        answer_json("import", results)
    else:
        for result in results:
            tell(f"{Path(str(result['file'])).name}: {result['told']}")
    sys.exit(1 if any(result["refused"] for result in results) else 0)


def _imported(book: "Ledger", number: int, path: Path) -> tuple[int | None, str]:
    """A recording in the book: the boot's number where it is new, and what to say."""
    from plucky_ledger.usecases.recording.boots import import_recording
    from plucky_ledger.wording.reasons import in_one_line

    done = import_recording(book, number, path)
    return done.boot, in_one_line(done.remarks)


def _import_all(drop: Path, notify: bool, ledger: str | None, new: bool, as_json: bool) -> None:
    """What is new on a stick, or in a folder into which recordings come."""
    from plucky_ledger.usecases.jobs.notice import show_on_the_desktop
    from plucky_ledger.usecases.recording.sticks import Known, look, on_a_stick, take_in_from
    from plucky_ledger.wording.sticks import got_slower, taken_in

    with opened(ledger, make=True, new=new) as book:
        outcome = take_in_from(book, look(book, on_a_stick(drop), Known()))
    if notify:
        for sentence in got_slower(outcome):
            show_on_the_desktop(sentence)
    if as_json:
        answer_json("import-drop", outcome)
    else:
        tell(taken_in(outcome))


def _new_job(book: "Ledger", path: Path) -> int:
    """A job for a recording that is one; none is taken in for a file that is none."""
    from plucky_ledger.core.job.job import Card
    from plucky_ledger.core.pc.facts import Facts
    from plucky_ledger.usecases.jobs.jobs import take_in
    from plucky_ledger.usecases.recording.boots import read_recording_file

    read_recording_file(path)
    return take_in(book, Card("", f"PC of {path.stem}"), Facts())


@click.command("past-boots")
@job_argument
@click.option("--administrator", is_flag=True, help="Read a log that is not for everybody's eyes.")
@ledger_option
@json_option
def past_boots(job: str, administrator: bool, ledger: str | None, as_json: bool) -> None:
    """Read the past boots of JOB's PC, which has to be this one, back from its log."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.recording.past_boots import keep_past_boots, read_past_boots
    from plucky_ledger.wording.recording import read_back, reading_back

    with opened(ledger) as book, passing_line() as show:

        def report(boots: int, lines: int) -> bool:
            show(reading_back(boots, lines))
            return True

        number = find_job(book, job)
        recordings = read_past_boots(book, number, report, administrator)
        outcome = keep_past_boots(book, number, recordings)
    if as_json:
        answer_json("past-boots", outcome)
    else:
        tell(read_back(outcome))


@click.command()
@job_argument
@click.option(
    "--boots", type=int, help="How many boots to record; as in the preferences, 3 where none are."
)
@click.option(
    "--user",
    "level",
    flag_value=Level.USER.value,
    help="Start with the user's services, at sign-in.",
)
@click.option(
    "--system",
    "level",
    flag_value=Level.SYSTEM.value,
    help="Start with the system's services; needs the administrator.",
)
@click.option(
    "--autostart",
    "level",
    flag_value=Level.AUTOSTART.value,
    help="Start as a sign-in program, where there is no user manager.",
)
@click.option(
    "--look-on",
    "look_minutes",
    type=click.FloatRange(0, LONGEST_LOOK_SECONDS / 60),
    metavar="MINUTES",
    help="Go on looking, slowly, after it has settled, for work that only comes later; as in the "
    "preferences, 5 where none are.",
)
@click.option("--restart", is_flag=True, help="Restart this PC at once: what is open is closed.")
@ledger_option
def arm(
    job: str,
    boots: int | None,
    level: str | None,
    look_minutes: float | None,
    restart: bool,
    ledger: str | None,
) -> None:
    """Record the next boots of this PC by itself, for JOB (its label).

    Without a level as early as can be had: with the system's services where somebody can be the
    administrator, else at sign-in.
    """
    from plucky_ledger.usecases.jobs.jobs import find_job, read_job
    from plucky_ledger.usecases.jobs.preferences import read_preferences
    from plucky_ledger.usecases.jobs.workplace import Workplace
    from plucky_ledger.usecases.recording import arming
    from plucky_ledger.usecases.recording.pcs import pc_of
    from plucky_ledger.wording.reasons import in_one_line
    from plucky_ledger.wording.recording import armed, recorded_notices

    with opened(ledger) as book:
        place, number = Workplace.beside(ledger_path(ledger)), find_job(book, job)
        wanted = Level(level) if level else None
        usual = read_preferences()
        boots = usual.boots if boots is None else boots
        look_minutes = usual.look_minutes if look_minutes is None else look_minutes
        then = Afterwards(look_minutes * 60, recorded_notices())
        reached = arming.arm(book, place, number, boots, wanted, then)
        tell(armed(boots, reached))
        if restart:
            if ends := pc_of(read_job(book, number)).restart_ends():
                tell(in_one_line(ends))
            arming.restart(book, number)


@click.command()
@job_or_none_argument
@click.option("--all", "everything", is_flag=True, help="Every arming of this PC, for any job.")
@ledger_option
def disarm(job: str | None, everything: bool, ledger: str | None) -> None:
    """Take back the arming for JOB (its label) and remove every trace of it."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.jobs.workplace import Workplace
    from plucky_ledger.usecases.recording import arming
    from plucky_ledger.wording.disarming import disarmed

    if bool(job) is everything:
        raise click.UsageError(say("Name a job, or all of them with --all."))
    if not job:
        with told_plainly():
            tell(disarmed(arming.disarm_everything()))
        return
    with opened(ledger) as book:
        place = Workplace.beside(ledger_path(ledger))
        was_armed = arming.disarm(book, place, find_job(book, job))
    tell(disarmed(was_armed))


@click.command("pick-up")
@job_argument
@ledger_option
@json_option
def pick_up_armed(job: str, ledger: str | None, as_json: bool) -> None:
    """Take finished armed recordings into the book of JOB (its label)."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.jobs.workplace import Workplace
    from plucky_ledger.usecases.recording.picking_up import pick_up
    from plucky_ledger.wording.recording import nothing_to_pick_up, remarks

    with opened(ledger) as book:
        picked_up = pick_up(book, Workplace.beside(ledger_path(ledger)), find_job(book, job))
        sentence = remarks(picked_up)
    if as_json:
        answer_json("pick-up", {"recordings": len(picked_up), "told": sentence})
    else:
        tell(sentence or nothing_to_pick_up())


boot_options = (
    click.option("--line", type=int, required=True, help="Line of the book; 0 is the opening."),
    click.option("--boot", type=int, required=True, help="Which boot of the line, from 1 on."),
)


@click.command("set-aside")
@job_argument
@boot_options[0]
@boot_options[1]
@click.option("--why", required=True, help="The reason: the owner may ask.")
@ledger_option
def set_aside(job: str, line: int, boot: int, why: str, ledger: str | None) -> None:
    """Leave a boot of JOB out of the account; it stays in the ledger."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.recording.boots import set_boot_aside

    with opened(ledger) as book:
        number = find_job(book, job)
        set_boot_aside(book, number, _boot_number(book, number, line, boot), why)


@click.command("bring-back")
@job_argument
@boot_options[0]
@boot_options[1]
@ledger_option
def bring_back(job: str, line: int, boot: int, ledger: str | None) -> None:
    """Take a boot of JOB that was set aside into the account again."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.recording.boots import bring_boot_back

    with opened(ledger) as book:
        number = find_job(book, job)
        bring_boot_back(book, number, _boot_number(book, number, line, boot))


def _boot_number(book: "Ledger", number: int, line: int, boot: int) -> int:
    """Number in the ledger of a boot that is named by its line and its place in it."""
    from plucky_ledger.cli.book_lines import boots_of_line
    from plucky_ledger.usecases.jobs.jobs import read_job

    boots = boots_of_line(read_job(book, number), line)
    if not 1 <= boot <= len(boots):
        raise Refused(TroubleCode.NO_SUCH_BOOT, line=line, boot=boot, boots=len(boots))
    return boots[boot - 1].number
