"""Recording, arming and reading past boots back, in words."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.pc.abilities import Abilities, RecordHow
from plucky_ledger.core.pc.arming import Afterwards, Care, Level
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.usecases.recording.arming import ArmedState
from plucky_ledger.wording.figures import number, seconds
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.reasons import boots_n, in_one_line, reason_in_words
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.trouble import trouble_in_words

if TYPE_CHECKING:
    from plucky_ledger.pages.live import LiveBoot
    from plucky_ledger.usecases.recording.past_boots import ReadBack


def record_title(abilities: Abilities) -> tuple[str, str]:
    """Title of the bench panel, and what recording this PC means."""
    if abilities.record is RecordHow.RESTARTS:
        return (
            say("Restart the stand-in PC and record it"),
            say(
                "This job's PC is simulated. It is restarted in the state the book says it is in; "
                "its time goes by {speed} times as fast.",
                speed=number(abilities.speed),
            ),
        )
    if abilities.record is RecordHow.NOT_HERE:
        return (
            say("Another PC"),
            say(
                "This job is about another PC. Record it there and import the recording, or time "
                "it with the stopwatch."
            ),
        )
    return (
        say("Record this PC"),
        say(
            "The curves begin now. What the system's log knows about the start is filled in at "
            "the end. Long after the start, this is a reading at rest."
        ),
    )


def start_button(abilities: Abilities) -> str:
    """What the button that begins says."""
    restarts = abilities.record is RecordHow.RESTARTS
    return say("Restart and record") if restarts else say("Start recording")


def progress(live: "LiveBoot") -> str:
    """How far a recording is."""
    since = seconds(live.since_start, 0) if live.since_start is not None else "…"
    return say(
        "Recording: {since} since the PC started, {left} left.",
        since=since,
        left=seconds(live.left_seconds, 0),
    )


def marks_so_far(fallen: Sequence[tuple[Mark, float]]) -> str:
    """The marks that have fallen; empty while none has."""
    marks = " · ".join(f"{label(mark)} {seconds(at)}" for mark, at in fallen)
    return say("Marks: {marks}", marks=marks) if marks else ""


def remarks(said: Sequence[Reason | Trouble]) -> str:
    """What became of recordings."""
    return " ".join(
        reason_in_words(remark) if isinstance(remark, Reason) else trouble_in_words(remark)
        for remark in said
    )


def kept(said: Sequence[Reason], early: Trouble | None) -> str:
    """What became of a recording that was just made, and what ended it early if anything did."""
    sentence = in_one_line(said)
    return f"{trouble_in_words(early)} {sentence}" if early is not None else sentence


def left_over(count: int, folder: str) -> str:
    """Recordings that never came into a book; empty when there is none."""
    if not count:
        return ""
    return say_n(
        "{n} recording in {folder} is in no book, as after a crash. Open its job and choose "
        "Record, Import recordings.",
        "{n} recordings in {folder} are in no book, as after a crash. Open their job and choose "
        "Record, Import recordings.",
        count,
        folder=folder,
    )


def armed(boots: int, level: Level) -> str:
    """What arming did, and what it will miss."""
    sentence = say(
        "Armed for {boots}. Restart the PC; the recordings come into the book by themselves when "
        "this window is open again.",
        boots=boots_n(boots),
    )
    return f"{sentence} {misses(level)}".strip()


def recorded_notices() -> tuple[str, str, str]:
    """What an armed recorder tells the user after a boot, after the last of them, and of both."""
    return (
        say("Boot {n} of {boots} is recorded. Restart now for the next.", n="{n}", boots="{boots}"),
        say("All {boots} boots are recorded. Open Plucky Ledger to see them.", boots="{boots}"),
        say("It was calm {seconds} s after its start.", seconds="{seconds}"),
    )


def misses(level: Level | None) -> str:
    """What a recorder that starts at this level does not see; None is the best that can be had."""
    return {
        None: say("With the system's services if you can be administrator, otherwise at sign-in."),
        Level.SYSTEM: say(
            "Nothing is missed. You are asked once for the administrator's password. Until the "
            "last armed boot, a copy of the recorder (about 2.5 MB) stays in "
            "/var/lib/plucky-ledger."
        ),
        Level.USER: say(
            "It begins at sign-in. What was over before is known from the service manager only, "
            "and not what the system's own programs read from the disk."
        ),
        Level.AUTOSTART: say(
            "It begins with the sign-in programs. What was over before is known from the service "
            "manager only, and not what the system's own programs read from the disk."
        ),
    }[level]


def in_care(care: Care) -> Afterwards:
    """What an armed recorder does that stays on a PC for good: it tells its user nothing."""
    return Afterwards(0.0, care=care)


def armed_state(state: ArmedState, level: Level | None = None) -> str:
    """Whether it is armed; with the level, how early it begins."""
    if not state.boots_left:
        return say("Not armed.")
    if state.every:
        parts = [
            say_n(
                "In care: every boot is recorded.",
                "In care: one boot in {n} is recorded, the next one first.",
                state.every,
            )
        ]
        if state.to_a_ledger:
            parts.append(say("They go into the ledger at {address}.", address=state.hand_to))
        elif state.hand_to:
            parts.append(say("Copies go into {folder}.", folder=shown(state.hand_to)))
        if level is not None:
            parts.append(misses(level))
        sentence = " ".join(parts)
    else:
        sentence = say_n("Armed for {n} more boot.", "Armed for {n} more boots.", state.boots_left)
    if state.trouble is None:
        return sentence
    why = trouble_in_words(state.trouble)
    return say("{armed} The last boot was not recorded: {why}", armed=sentence, why=why)


def reading_back(boots: int, lines: int) -> str:
    """How far reading past boots back is."""
    return say("{boots} in {n} lines of the log…", boots=boots_n(boots), n=number(lines))


def read_back(outcome: "ReadBack") -> str:
    """What became of past boots."""
    repeated = ""
    if outcome.known:
        repeated = say("; {boots} were in the book already", boots=boots_n(outcome.known))
    added = say_n("{n} past boot", "{n} past boots", outcome.added)
    return say(
        "{added} read back from the log{known}. The log knows when the system was up and when its "
        "services started, not what they used.",
        added=added,
        known=repeated,
    )


def cannot_be_armed(abilities: Abilities) -> str:
    """Why the recorder cannot be made to start with this PC's next boots."""
    if abilities.record is RecordHow.RESTARTS:
        return trouble_in_words(Refused(TroubleCode.PC_IS_SIMULATED))
    return trouble_in_words(Refused(TroubleCode.PC_IS_ELSEWHERE))


def nothing_to_pick_up() -> str:
    """No armed recording is finished."""
    return say("No armed recording is waiting.")
