"""The program on the stick: by its options, or by a menu for somebody who has never seen it."""

import argparse
import os
import shlex
import shutil
import subprocess
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

from plucky_ledger import __version__
from plucky_ledger.core.pc.arming import MOST_BOOTS, Level
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.users import is_administrator
from plucky_ledger.stick import doing
from plucky_ledger.stick.kept import ON_THE_PC, bring
from plucky_ledger.stick.words import KIND, say, trouble_in_words

LONGEST_SECONDS = 600.0
USUAL_SECONDS, USUAL_BOOTS = 180.0, 3
TERMINALS = ("x-terminal-emulator", "gnome-terminal", "konsole", "xfce4-terminal", "xterm")


def main(itself: Path, arguments: Sequence[str]) -> int:
    """Do what is asked for; without anything, ask. Returns the exit status."""
    wish = _options().parse_args(arguments)
    stick = Path(os.path.abspath(itself)).parent
    try:
        if wish.record_now is not None:
            return _record(stick, wish.record_now)
        if wish.next_boots is not None:
            return _arm(wish.next_boots)
        if wish.take_back:
            return _take_back()
        if wish.past_boots:
            return _past_boots(stick)
        if wish.list:
            return _list()
        if wish.bring:
            return _bring(stick)
        if not sys.stdin.isatty():
            return _in_a_terminal(itself)
        return _menu(itself, stick)
    except Trouble as trouble:
        _tell_trouble(trouble)
        return 1
    except (KeyboardInterrupt, EOFError):
        _tell("")
        return 130


def _options() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="plucky-ledger-stick",
        description=say("Record how this PC starts. Without an option, a menu is shown."),
    )
    parser.add_argument("--version", action="version", version=f"plucky-ledger {__version__}")
    one = parser.add_mutually_exclusive_group()
    one.add_argument(
        "--record-now",
        nargs="?",
        type=_seconds,
        const=USUAL_SECONDS,
        metavar="SECONDS",
        help=say("record this PC until it is calm, at most so long (180)"),
    )
    one.add_argument(
        "--next-boots",
        nargs="?",
        type=_boots,
        const=USUAL_BOOTS,
        metavar="NUMBER",
        help=say("record so many of the next boots (3)"),
    )
    one.add_argument(
        "--take-back",
        action="store_true",
        help=say("take back what records the next boots; recordings are kept"),
    )
    one.add_argument(
        "--past-boots",
        action="store_true",
        help=say("read the boots that this PC’s own log knows"),
    )
    one.add_argument("--list", action="store_true", help=say("list what starts by itself"))
    one.add_argument(
        "--bring", action="store_true", help=say("bring recordings kept on this PC to the stick")
    )
    return parser


def _seconds(text: str) -> float:
    return _between(text, 5, LONGEST_SECONDS)


def _boots(text: str) -> int:
    return int(_between(text, 1, MOST_BOOTS))


def _between(text: str, least: float, most: float) -> float:
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
    if not least <= value <= most:
        raise argparse.ArgumentTypeError(
            say("{text}: give {least} to {most}", text=text, least=f"{least:g}", most=f"{most:g}")
        )
    return value


def _menu(itself: Path, stick: Path) -> int:
    """Asked again after each thing done, until somebody has enough."""
    things: dict[str, tuple[str, Callable[[], int]]] = {
        "1": (say("Record this PC now"), lambda: _record(stick, USUAL_SECONDS)),
        "2": (say("Record the next boots of this PC"), lambda: _ask_and_arm(itself)),
        "3": (
            say("Take that back: record no further boots, keep the recordings"),
            lambda: _as_who_armed(itself),
        ),
        "4": (
            say("Read past boots from this PC’s log"),
            lambda: _past_boots_as_who_may(itself, stick),
        ),
        "5": (say("List what starts by itself"), _list),
        "6": (say("Bring recordings kept on this PC to the stick"), lambda: _bring(stick)),
        "0": (say("End"), lambda: 0),
    }
    _bring(stick, silent=True)
    while True:
        _tell(f"\nPlucky Ledger {__version__}\n{_standing()}\n")
        for key, (words, _) in things.items():
            _tell(f"  {key}  {words}")
        key = input(f"\n{say('Number:')} ").strip()
        if key == "0":
            return 0
        _, does = things.get(key, ("", lambda: 0))
        try:
            does()
        except Trouble as trouble:
            _tell_trouble(trouble)


def _standing() -> str:
    """What is armed on this PC now."""
    for there in doing.standings():
        if there.trouble is not None:
            return trouble_in_words(there.trouble)
        if there.by_a_stick:
            return say(
                "{left} of {boots} boots are still to be recorded here.",
                left=there.boots_left,
                boots=there.boots,
            )
        return say("Plucky Ledger on this PC itself is to record its next boots.")
    return say("This program records how the PC starts. It switches nothing off.")


def _record(stick: Path, seconds: float) -> int:
    _tell(
        say(
            "Recording, until the PC is calm or {seconds} s have passed. Ctrl+C ends it and "
            "keeps what there is.",
            seconds=f"{seconds:g}",
        )
    )
    path = doing.record_now(seconds, _count)
    _tell("")
    _tell(say("Recorded: {name}", name=path.name))
    return _bring(stick)


def _count(seconds: float) -> None:
    if sys.stdout.isatty():
        sys.stdout.write(f"\r  {seconds:.0f} s ")
        sys.stdout.flush()


def _ask_and_arm(itself: Path) -> int:
    """How many, and whether from the very beginning, which takes the administrator."""
    text = input(f"{say('How many boots? Three say more than one.')} [{USUAL_BOOTS}] ").strip()
    try:
        boots = _boots(text or str(USUAL_BOOTS))
    except argparse.ArgumentTypeError as error:
        _tell(str(error))
        return 1
    if is_administrator():
        return _arm(boots)
    _tell(
        say(
            "Only the administrator can have a boot recorded from its very beginning; without, "
            "it is recorded from the sign-in on."
        )
    )
    key = input(f"{say('Give the administrator’s password? Yes: 1, no: Enter')} ").strip()
    if key != "1":
        return _arm(boots)
    return _as_administrator(itself, "--next-boots", str(boots))


def _as_who_armed(itself: Path) -> int:
    """Take back, as administrator where it was armed so."""
    if not is_administrator() and any(one.level is Level.SYSTEM for one in doing.standings()):
        return _as_administrator(itself, "--take-back")
    return _take_back()


def _as_administrator(itself: Path, *options: str) -> int:
    """The same program with other rights: sudo asks for the password."""
    if shutil.which("sudo") is None:
        words = f"su -c {shlex.quote(shlex.join(['sh', str(itself), *options]))}"
        _tell(say("There is no sudo on this PC. As administrator, type: {words}", words=words))
        return 1
    command = ["sudo", "--", sys.executable, "-I", str(itself), *options]
    return subprocess.run(command, check=False).returncode


def _arm(boots: int) -> int:
    later = {"n": "{n}", "boots": "{boots}"}  # known when it is told
    level = doing.arm(
        boots,
        (
            say("Boot {n} of {boots} is recorded. Restart now for the next.", **later),
            say(
                "All {boots} boots are recorded. Put the stick in again and start its program.",
                **later,
            ),
            "",
        ),
    )
    _tell(say("This PC will record its next boots: {boots}.", boots=boots))
    if level is Level.SYSTEM:
        _tell(say("Nothing of a boot is missed."))
    else:
        _tell(say("It begins at the sign-in: what is over before is known from the log only."))
    _tell(
        say(
            "Now restart the PC, sign in as always, and wait until it is calm. The stick may be "
            "pulled. Recordings are kept on the PC until the stick is in again; after the last "
            "boot nothing of this program stays."
        )
    )
    return 0


def _take_back() -> int:
    done = doing.take_back()
    _tell(
        say("Every trace is removed. Recordings are kept.")
        if done
        else say("Nothing was to be recorded here.")
    )
    return 0


def _past_boots(stick: Path) -> int:
    read = doing.keep_past_boots(_count)
    _tell("")
    _tell(say("Boots read from the log: {number}", number=read))
    return _bring(stick)


def _past_boots_as_who_may(itself: Path, stick: Path) -> int:
    """The same, as administrator where the log is not for everybody."""
    try:
        return _past_boots(stick)
    except Trouble as trouble:
        if trouble.code is not TroubleCode.JOURNAL_NOT_FOR_USERS:
            raise
        _tell_trouble(trouble)
        return _as_administrator(itself, "--past-boots")


def _list() -> int:
    lines = sorted(doing.what_starts(), key=lambda line: (line.part_of_system, line.name.lower()))
    for own, heading in ((False, say("What starts by itself")), (True, say("Parts of the system"))):
        some = [line for line in lines if line.part_of_system is own]
        _tell(f"\n{heading}: {len(some)}\n")
        for line in some:
            off = say("off") if line.off is not None or line.off_because else ""
            _tell(f"  {_fit(line.name, 36)}  {_fit(say(KIND + line.starts), 28)}  {off}")
            if not own and (line.command or line.origin):
                _tell(f"      {_fit(line.command or line.origin, 100)}")
    return 0


def _fit(text: str, width: int) -> str:
    """Text of a PC as a terminal may show it, in so many columns."""
    shown = "".join(char if char.isprintable() else "�" for char in text)
    return f"{shown[: width - 1]}…" if len(shown) > width else shown.ljust(width)


def _bring(stick: Path, silent: bool = False) -> int:
    """Move finished recordings from the PC to the stick, and say where they are."""
    came = bring(stick)
    if came.there:
        _tell(
            say(
                "On the stick now: {number} in {folder}",
                number=len(came.there),
                folder=came.folder.relative_to(stick),
            )
        )
    if came.why is not None:
        _tell_trouble(came.why)
        _tell(
            say(
                "They stay on this PC, in {folder}, until the stick can take them: {number}",
                folder=f"~/{ON_THE_PC}",
                number=came.left,
            )
        )
        return 1
    if not came.there and not silent:
        _tell(say("No recording waits on this PC."))
    return 0


def _in_a_terminal(itself: Path) -> int:
    """Started by a double click: the menu needs a terminal."""
    on_a_screen = os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")
    terminal = next(filter(shutil.which, TERMINALS), None) if on_a_screen else None
    if terminal is None:
        _tell(say("Open a terminal and type: sh {file}", file=shlex.quote(str(itself))))
        return 1
    divider = "--" if terminal == "gnome-terminal" else "-e"
    command = [terminal, divider, sys.executable, "-I", str(itself)]
    return subprocess.run(command, check=False).returncode


def _tell(text: str) -> None:
    sys.stdout.write(f"{text}\n")


def _tell_trouble(trouble: Trouble) -> None:
    sys.stderr.write(f"{trouble_in_words(trouble)}\n")
