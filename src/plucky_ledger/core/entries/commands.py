"""Command lines: the program that a start command really runs, behind shells, env and launchers."""

import re
import shlex
from dataclasses import dataclass
from functools import lru_cache

LONGEST_COMMAND = 4096
_LINK_OF_A_LEVEL = re.compile(r"^/etc/rc[\dS]\.d/[SK]\d\d(.+)$")
"""A link by which an init system runs one of its scripts. init(8)."""
DEEPEST = 6
"""Wrappers within wrappers that are looked through."""
SHELLS = frozenset({"sh", "bash", "dash", "zsh", "ksh", "ash"})
INTERPRETERS = (
    "python",
    "perl",
    "ruby",
    "node",
    "java",
    "mono",
    "lua",
    "php",
    "gjs",
    "wish",
    "electron",
    "wine",
)
"""What they run is the program; the names begin so, a version may follow."""
PREFIXES = frozenset(
    {
        "env",
        "nice",
        "ionice",
        "nohup",
        "setsid",
        "exec",
        "command",
        "stdbuf",
        "chrt",
        "taskset",
        "dbus-launch",
        "dbus-run-session",
        "systemd-run",
        "systemd-cat",
        "systemd-inhibit",
        "timeout",
        "sudo",
        "pkexec",
        "xdg-open",
        "kstart",
        "gtk-launch",
        "start-stop-daemon",
        "openrc-run",
        "openrc-run.sh",
        "init-d-script",
        "invoke-run",
    }
)
TAKES_VALUE = frozenset(
    {
        "-n",
        "-c",
        "-u",
        "-p",
        "-t",
        "-k",
        "--unit",
        "--slice",
        "--chdir",
        "--pidfile",
        "--exec",
    }
)
"""Options of the prefixes whose value is a word of its own."""
ASKS_WHOSE = frozenset({"sudo", "pkexec"})
"""Prefixes whose ``--user`` has a value; elsewhere it means the user's own manager."""


@dataclass(frozen=True)
class CommandLine:
    """A program with its arguments, wrappers taken off."""

    program: str
    """Path or name as written; a script's for an interpreter."""
    arguments: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        """Last part of the path."""
        return self.program.rpartition("/")[2]


@lru_cache(maxsize=8192)
def unwrapped(text: str) -> CommandLine:
    """The program that ``text`` really runs; an empty program where there is none.

    Never raises: text from a PC may be anything.
    """
    words = _words(text[:LONGEST_COMMAND])
    for _ in range(DEEPEST):
        inner = _inner(words)
        if inner is None or inner == words:
            break
        words = inner
    if not words:
        return CommandLine("")
    return CommandLine(_LINK_OF_A_LEVEL.sub(r"/etc/init.d/\1", words[0]), tuple(words[1:]))


def _words(text: str) -> list[str]:
    try:
        words = shlex.split(text)
    except ValueError:
        words = text.split()
    return [word for word in words if not _field_code(word)]


def _field_code(word: str) -> bool:
    """Such as %U: a place where the desktop would put a file."""
    return len(word) == 2 and word[0] == "%" and word[1] != "%"


def _inner(words: list[str]) -> list[str] | None:
    """What the first word starts; None when it is no wrapper."""
    if not words:
        return None
    name = words[0].rpartition("/")[2].lstrip("-")
    if "=" in words[0] and not words[0].startswith("/"):
        return words[1:]
    if name in SHELLS:
        return _of_shell(words[1:])
    if name in PREFIXES:
        takes_user = TAKES_VALUE | {"--user"} if name in ASKS_WHOSE else TAKES_VALUE
        return _after_options(words[1:], takes_user) or None
    if name in {"flatpak", "snap"} and "run" in words:
        return _after_options(words[words.index("run") + 1 :], TAKES_VALUE) or None
    if name.startswith(INTERPRETERS):
        return _script(words[1:])
    return None


def _of_shell(words: list[str]) -> list[str] | None:
    for index, word in enumerate(words):
        if word.startswith("-") and "c" in word[1:] and not word.startswith("--"):
            script, *rest = words[index + 1 :] or [""]
            # A command line that lost its quotes has the rest of the script in words of their own.
            whole = script if " " in script else " ".join((script, *rest))
            return _last_command(whole) if whole else None
    return _after_options(words, TAKES_VALUE) or None


def _last_command(script: str) -> list[str]:
    """The last of several commands, as in "sleep 5 && exec program"."""
    for mark in ("&&", "||", ";", "\n"):
        script = script.replace(mark, " ; ")
    commands: list[list[str]] = [[]]
    for word in _words(script):
        if word == ";":
            commands.append([])
        elif word != "&":
            commands[-1].append(word)
    return next((command for command in reversed(commands) if command), [])


def _after_options(words: list[str], takes_value: frozenset[str]) -> list[str]:
    rest = list(words)
    while rest and (
        rest[0].startswith("-")
        or ("=" in rest[0] and "/" not in rest[0])
        or rest[0].replace(".", "").rstrip("smh").isdigit()
    ):
        word = rest.pop(0)
        if word == "--":
            break
        if word in takes_value and rest:
            rest.pop(0)
    return rest


def _script(words: list[str]) -> list[str] | None:
    """What an interpreter runs: a module, an archive or a script."""
    for index, word in enumerate(words):
        if word in {"-m", "-jar"}:
            return words[index + 1 :] or None
        if word in {"-c", "-e"}:
            return None
        if not word.startswith("-"):
            return words[index:]
    return None


def likeness(entry: CommandLine, run: CommandLine) -> int:
    """How surely a program run is what an entry starts: 0 not at all, to 4 word for word."""
    if not entry.program or not run.program or entry.name != run.name:
        return 0
    both_full = "/" in entry.program and "/" in run.program
    if both_full and entry.program != run.program:
        return 0
    words = [word for word in entry.arguments if word]
    if [word for word in run.arguments if word] == words:
        return 4 if entry.program == run.program else 3
    return 2 if all(word in run.arguments for word in words) else 1
