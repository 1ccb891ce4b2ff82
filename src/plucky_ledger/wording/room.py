"""What takes the room, in words: what each heap is, what clearing it costs, and how."""

from collections.abc import Mapping
from dataclasses import dataclass

from plucky_ledger.core.pc.room import Clearing, Heap, HeapKind, Survey
from plucky_ledger.wording.figures import number, size
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.safe import shown


@dataclass(frozen=True, kw_only=True)
class HeapWords:
    """One heap in words."""

    name: str
    size: str
    about: str
    """Where it lies and how many files it has."""
    clearing: str
    """What clearing it costs."""
    how: str
    """The command or the place to clear it, as a sentence; empty where there is none."""
    change: str
    """What is written in the book when it was cleared; empty where it is not to be."""


NAMES: Mapping[HeapKind, str] = {
    HeapKind.PACKAGE_CACHE: N_("Downloaded package files"),
    HeapKind.LOGS: N_("Logs"),
    HeapKind.CRASHES: N_("Crash reports"),
    HeapKind.BIN: N_("The bin"),
    HeapKind.THUMBNAILS: N_("Thumbnails"),
    HeapKind.PROGRAM_CACHES: N_("Program caches"),
    HeapKind.OLD_KERNELS: N_("Old kernels"),
    HeapKind.UNNEEDED: N_("Packages no longer needed"),
    HeapKind.LEFT_TEMPORARY: N_("Temporary files"),
    HeapKind.DOWNLOADS: N_("Downloads"),
    HeapKind.SYSTEM: N_("The system and its programs"),
    HeapKind.FOLDER: N_("A large folder"),
}
COSTS: Mapping[Clearing, str] = {
    Clearing.NOTHING: N_("Clearing it costs nothing."),
    Clearing.FETCHED_AGAIN: N_("Harmless. What is needed is made again, slower the first time."),
    Clearing.HISTORY: N_("Past boots can then no longer be read from the log."),
    Clearing.UNLESS_USED: N_("Harmless, unless a program installed without a package uses them."),
    Clearing.FALL_BACK: N_("One fallback less if the newest kernel fails."),
    Clearing.OWNERS: N_("Ask the owner."),
    Clearing.NEVER: N_("Needed."),
}
HOW: Mapping[HeapKind, str] = {
    HeapKind.PACKAGE_CACHE: N_("with the package manager's own clean command"),
    HeapKind.LOGS: "journalctl --vacuum-size=200M",
    HeapKind.CRASHES: N_("delete the files there"),
    HeapKind.BIN: N_("empty the bin on the desktop"),
    HeapKind.THUMBNAILS: N_("delete the folder"),
    HeapKind.PROGRAM_CACHES: N_("delete the folder while its owner is signed out"),
    HeapKind.OLD_KERNELS: N_("with the package manager's own autoremove command"),
    HeapKind.UNNEEDED: N_("with the package manager's own autoremove command"),
    HeapKind.LEFT_TEMPORARY: "systemd-tmpfiles --clean",
}


def heap_in_words(heap: Heap) -> HeapWords:
    """A heap in words, fit to be shown."""
    name, how = say(NAMES[heap.kind]), HOW.get(heap.kind, "")
    files = (
        say_n(
            "{files} package, counted with the system as well",
            "{files} packages, counted with the system as well",
            heap.files,
            files=number(heap.files),
        )
        if heap.kind is HeapKind.UNNEEDED
        else say_n("{files} file", "{files} files", heap.files, files=number(heap.files))
    )
    cleared = say("{name} cleared ({path})", name=name, path=shown(heap.path))
    return HeapWords(
        name=name,
        size=size(heap.size_bytes),
        about=f"{shown(heap.path)} · {files}",
        clearing=say(COSTS[heap.clearing]),
        how=say("How: {how}.", how=say(how)) if how else "",
        change="" if heap.clearing is Clearing.NEVER else cleared,
    )


def room_in_short(survey: Survey) -> str:
    """How much is taken and free."""
    return say(
        "{free} of {size} are free.", free=size(survey.free_bytes), size=size(survey.size_bytes)
    )


def room_basis(survey: Survey) -> str:
    """What was counted, and what was not."""
    parts = [
        say(
            "{size} in {n} files were counted on the system disk.",
            size=size(survey.counted_bytes),
            n=number(survey.files),
        )
    ]
    if survey.unreadable:
        parts.append(
            say_n(
                "{n} folder could not be read (no permission).",
                "{n} folders could not be read (no permission).",
                survey.unreadable,
            )
        )
    if survey.elsewhere:
        parts.append(
            say_n(
                "{n} folder of another file system was left out.",
                "{n} folders of other file systems were left out.",
                survey.elsewhere,
            )
        )
    if survey.again:
        parts.append(
            say_n(
                "{n} folder that is mounted a second time was counted once.",
                "{n} folders that are mounted a second time were counted once.",
                survey.again,
            )
        )
    if survey.too_deep:
        parts.append(
            say_n(
                "{n} folder is nested too deep to be read.",
                "{n} folders are nested too deep to be read.",
                survey.too_deep,
            )
        )
    if not survey.whole:
        parts.append(say("It was stopped before the end."))
    parts.append(say("Nothing is deleted from here."))
    return " ".join(parts)


def looking(files: int, folder: str) -> str:
    """How far the survey is."""
    return say("{n} files counted · {folder}", n=number(files), folder=shown(folder))
