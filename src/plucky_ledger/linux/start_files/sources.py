"""All sources of lines that start programs: the system's, and those of one person."""

from pathlib import Path

from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.start_files import bus_files, desktop_files, hooks, shell_files, tables
from plucky_ledger.linux.start_files.found import Looked, StartLine
from plucky_ledger.linux.users import own_home

ROOT = Path("/")


def looked_for_the_system(root: Path = ROOT) -> list[Looked]:
    """What the system's files start, and every user's table of timed jobs that may be read."""
    return [
        tables.every_table(root),
        hooks.of_the_system(root),
        shell_files.of_the_system(root),
        desktop_files.of_the_system(root),
        bus_files.of_the_system(root),
    ]


def looked_for_the_person(home: Path, settings: Path, root: Path = ROOT) -> list[Looked]:
    """What a person's own files start, and what the bus of their session does."""
    return [
        shell_files.of_the_person(home),
        desktop_files.of_the_person(home, settings),
        bus_files.of_the_person(root, home),
    ]


def start_lines(root: Path = ROOT) -> dict[str, StartLine]:
    """Everything that whoever asks may read, by the ids of the entries; what a bus may start also
    where it does not run now.
    """
    home, settings = own_home(), Folders.of_this_user().config
    looked = [
        *looked_for_the_system(root),
        *looked_for_the_person(home, settings, root),
        bus_files.of_the_system(root, every=True),
        bus_files.of_the_person(root, home, every=True),
    ]
    return {line.entry_id: line for one in looked for line in one.lines}
