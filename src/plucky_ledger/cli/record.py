"""The headless recorder as a command: ``plucky-ledger record --for 60 --out boot.jsonl.gz``."""

import argparse
import os
import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing
from pathlib import Path

import msgspec

from plucky_ledger.capture.sampling.recorder import ADAPTIVE, BootClock, Listener, Pace, record
from plucky_ledger.capture.sampling.rest_watch import RestWatch
from plucky_ledger.capture.sampling.this_pc import ThisPc
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.recording.lines import Line
from plucky_ledger.recording.writer import RecordingStopped, RecordingWriter

LONGEST_SECONDS = 86_400.0
HELP_WIDTH = 80


def main(arguments: Sequence[str]) -> int:
    """Record this PC; returns the exit status."""
    wish = _read(arguments)
    if wish.armed is not None:
        from plucky_ledger.capture.arming.armed_recorder import record_for_the_user

        return record_for_the_user(wish.armed)
    pace = ADAPTIVE if wish.rate is None else Pace(1 / wish.rate, 1 / wish.rate)
    try:
        sentence = _record(wish.out, wish.for_seconds, pace, wish.until_settled, wish.echo)
    except RecordingStopped as stopped:
        return _tell(stopped)
    if not wish.echo:
        sys.stdout.write(sentence)
    return 0


def _tell(trouble: Trouble) -> int:
    """Say what went wrong; the words are only loaded when they are wanted."""
    from plucky_ledger.wording.trouble import trouble_in_words

    sys.stderr.write(f"{trouble_in_words(trouble)}\n")
    return 1


def _record(path: Path, for_seconds: float, pace: Pace, until_settled: bool, echo: bool) -> str:
    """Record to ``path``; returns what to say about it."""
    clock = BootClock()
    clock.stop_on_signals()
    watch = RestWatch(os.cpu_count() or 1, clock.now()) if until_settled else None
    listener = _echo() if echo else None
    with RecordingWriter(path) as writer, closing(ThisPc()) as source:
        reason = record(source, clock, writer, for_seconds, pace, listener, watch)
    if echo:
        return ""
    from plucky_ledger.wording.reasons import reason_in_words

    why = reason_in_words(Reason(reason))
    return f"Recorded {writer.samples} samples to {writer.path} ({why}).\n"


def _echo() -> Listener:
    encoder = msgspec.json.Encoder()

    heard = True

    def tell(lines: Sequence[Line]) -> None:
        nonlocal heard
        if heard:
            try:
                sys.stdout.buffer.write(b"".join(encoder.encode(line) + b"\n" for line in lines))
                sys.stdout.buffer.flush()
            except BrokenPipeError:
                heard = False  # the window went away; the recording goes on in its file

    return tell


def _read(arguments: Sequence[str]) -> argparse.Namespace:
    """What is asked for. Only who asks for help waits for words in another language to load."""
    if not {"-h", "--help"}.intersection(arguments):
        return _parser(str).parse_args(arguments)
    from plucky_ledger.cli.common import preferred_language
    from plucky_ledger.cli.translated import packages_translated
    from plucky_ledger.wording.language import say, use_the_users

    use_the_users(preferred_language())
    with packages_translated():
        return _parser(say).parse_args(arguments)


def _formatter(prog: str) -> argparse.HelpFormatter:
    """One width for all: asking for the terminal's loads what takes long to load."""
    return argparse.HelpFormatter(prog, width=HELP_WIDTH)


def _parser(say: Callable[[str], str]) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="plucky-ledger record",
        description=say("Record this PC's counters to a file, without a screen."),
        formatter_class=_formatter,
    )
    parser.add_argument(
        "--for",
        dest="for_seconds",
        type=_seconds,
        default=180.0,
        metavar="SECONDS",
        help=say("how long to record (default 180)"),
    )
    parser.add_argument(
        "--out",
        type=Path,
        default=Path("boot.jsonl.gz"),
        metavar="FILE",
        help=say("new file to write; .gz compresses (default boot.jsonl.gz)"),
    )
    parser.add_argument(
        "--rate",
        type=_rate,
        metavar="HZ",
        help=say(
            "samples a second, 0.1 to 10 (default 1; more in the first minute if it costs little)"
        ),
    )
    parser.add_argument(
        "--until-settled", action="store_true", help=say("stop as soon as the PC has come to rest")
    )
    parser.add_argument(
        "--armed",
        type=Path,
        metavar="STARTER",
        help=say("record one of the armed boots; this is what arming starts by itself"),
    )
    parser.add_argument(
        "--echo", action="store_true", help=say("also write every line to standard output")
    )
    return parser


def options(say: Callable[[str], str]) -> Iterator[tuple[str, str]]:
    """Each long option with its help, but for what arming alone uses."""
    for action in _parser(say)._actions:
        long = [name for name in action.option_strings if name.startswith("--")]
        if long and action.dest != "armed":
            yield long[0], action.help or ""


def _seconds(text: str) -> float:
    return _between(text, 1.0, LONGEST_SECONDS, "seconds")


def _rate(text: str) -> float:
    return _between(text, 0.1, 10.0, "samples a second")


def _between(text: str, low: float, high: float, what: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
    if not low <= value <= high:
        raise argparse.ArgumentTypeError(f"{text}: give {low:g} to {high:g} {what}")
    return value
