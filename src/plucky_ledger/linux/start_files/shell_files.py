"""Shell and session files: what a person's sign-in reads and runs line by line.

bash(1), sh(1), Xsession(5), pam_exec(8).
"""

import re
from collections.abc import Iterator
from pathlib import Path

from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.linux.start_files.found import Looked, Reading, StartLine

PERSONS = (
    ".profile",
    ".bash_profile",
    ".bash_login",
    ".zprofile",
    ".zlogin",
    ".xprofile",
    ".xsessionrc",
    ".xsession",
    ".xinitrc",
)
SYSTEMS = (
    "etc/profile",
    "etc/profile.d/*.sh",
    "etc/xprofile",
    "etc/X11/Xsession.d/*",
    "etc/X11/xinit/xinitrc",
    "etc/X11/xinit/xinitrc.d/*",
)
_STAYS = re.compile(r"(?<!&)&$")
_LEADS = re.compile(r"(?:exec|nohup|setsid)\s+(?!\d*[<>])\S")
_PATH = re.compile(r"[\"']?(?:/|~/|\$HOME/|\$\{HOME\}/)")
_COMMENT = re.compile(r"(?:^|\s)#[^\"']*$")
_ONE = re.compile(r"(?:\"[^\"]*\"|'[^']*'|(?<!&)&(?!&)|[^;&\"'])+")
"""One of several commands in a line: up to what stands between them, quotes taken as a whole."""
LONGEST_LINE = 4096
_REDIRECTION = re.compile(r"\s*(?:\d*|&)(?:>>?|<)\s*(?:&\d|[^\s&|;]+)")
_HOME = re.compile(r"~(?=/)|\$HOME\b|\$\{HOME\}")
_KEYWORDS = frozenset(
    {
        ".",
        ":",
        "[",
        "cd",
        "do",
        "eval",
        "export",
        "fi",
        "if",
        "set",
        "source",
        "test",
        "then",
        "umask",
    }
)


def commands_in(text: str, home: str = "") -> Iterator[tuple[str, str]]:
    """What a shell's file starts that may stay: the commands it sends to the background, hands
    over to, or names by their path; each with its line.
    """
    for line in text.replace("\\\n", " ").splitlines():
        if len(line) > LONGEST_LINE:
            continue
        stripped = _COMMENT.sub("", line).strip()
        stays = _STAYS.search(stripped) is not None
        # Of several one after the other, in a shell of their own, the last is what stays.
        whole = (stripped.removesuffix("&") if stays else stripped).strip("(){} ;")
        command = _REDIRECTION.sub("", (_ONE.findall(whole) or [""])[-1]).strip("(){} ;")
        if not (stays or _LEADS.match(command) or _PATH.match(command)):
            continue
        command = at_home(command, home)
        command = re.sub(r"^(?:exec|nohup|setsid)\s+(?!-)", "", command)
        program = unwrapped(command).program
        if program and program not in _KEYWORDS and not set(program) & set("$`()=;|{}"):
            yield command, line.strip()


def at_home(command: str, home: str) -> str:
    """A command with a person's home in the place of what stands for it; as it is without one."""
    return _HOME.sub(lambda _found: home, command) if home else command


def of_the_person(home: Path) -> Looked:
    """A person's own files."""
    reading = Reading()
    lines = [
        _line(path, False, command, line)
        for path in (home / name for name in PERSONS)
        for command, line in commands_in(reading.text(path), str(home))
    ]
    return reading.looked(StartSource.OWN_SHELL_FILES, lines)


def of_the_system(root: Path) -> Looked:
    """Those that everybody's sign-in reads."""
    reading = Reading()
    lines = [
        _line(path, True, command, line)
        for path in reading.matching(root, SYSTEMS)
        for command, line in commands_in(reading.text(path))
    ]
    return reading.looked(StartSource.SYSTEMS_SHELL_FILES, lines)


def _line(path: Path, of_system: bool, command: str, line: str) -> StartLine:
    return StartLine(
        kind=EntryKind.SHELL_LINE,
        file=str(path),
        user="",
        of_system=of_system,
        command=command,
        line=line,
    )
