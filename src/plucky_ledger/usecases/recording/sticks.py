"""Recordings that came on a stick, or into a folder where several benches put theirs.

A stick is only read. What is in a book already is not new, however often the stick comes.
"""

import logging
import time
import zlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

import msgspec

from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.trouble import Refused
from plucky_ledger.linux.files import read_bounded
from plucky_ledger.linux.users import user_name
from plucky_ledger.recording.lines import Header
from plucky_ledger.recording.pc_folder import ABOUT
from plucky_ledger.stick.kept import ENDINGS, ON_THE_STICK
from plucky_ledger.store import boots as stored
from plucky_ledger.store.jobs import jobs_of_pcs
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.spines import read_spine
from plucky_ledger.usecases.jobs.jobs import take_in
from plucky_ledger.usecases.recording.boots import keep_file, read_recording_file

MOUNTED_BELOW = ("/media/{user}", "/run/media/{user}", "/media")
"""Where desktops put the sticks of a user, and systems without one."""
MOST_FOLDERS, MOST_PCS, MOST_FILES = 50, 500, 5_000
LARGEST_ABOUT, LARGEST_HEADER, LONGEST_NAME = 4_096, 65_536, 80
STILL_COPIED_SECONDS = 3.0
"""A file that was changed so lately may still be on its way into a folder."""
GZIP = 31
"""zlib's window size for a stream with a gzip header."""
log = logging.getLogger(__name__)


class AboutPc(msgspec.Struct, frozen=True):
    """What a folder of recordings says of the PC it is of."""

    machine: str = ""
    """Its identity; empty where it has none."""
    name: str = ""


@dataclass(frozen=True)
class PcOnStick:
    """One PC, and those of its recordings that are in no book yet."""

    name: str
    machine: str
    new: tuple[Path, ...]
    job: int | None = None
    """The job it is about; None where none is yet."""
    title: str = ""
    """That job's title."""


@dataclass(frozen=True)
class Slower:
    """A PC that takes longer than it did."""

    by: float
    measure: Measure
    since: datetime
    """The first boot that was certainly after it."""


@dataclass(frozen=True)
class TakenIn:
    """What became of one PC's recordings."""

    job: int
    title: str
    begun: bool
    """Its job was begun for them."""
    boots: int
    said: tuple[Reason | Refused, ...]
    """Of those that are not in the book as they are expected to be."""
    slower: Slower | None = None
    """A step up in its boots that was not known before they came."""


@dataclass
class Known:
    """Boots of recordings that were looked into, so that a stick is not read again and again."""

    boots: dict[tuple[Path, int, float], str] = field(default_factory=dict)


def mounted_below() -> list[Path]:
    """Folders below which this user's sticks are."""
    return [Path(place.format(user=user_name())) for place in MOUNTED_BELOW]


def stick_folders(drop: str = "") -> Iterator[Path]:
    """Folders of recordings on what is mounted now, and the folder that is preferred for them."""
    for place in mounted_below():
        try:
            folders = [place, *list(place.iterdir())[:MOST_FOLDERS]]
        except OSError:
            continue  # nothing is mounted there, or it was pulled
        yield from (found for one in folders if (found := one / ON_THE_STICK).is_dir())
    if drop:
        yield from on_a_stick(Path(drop))


def on_a_stick(folder: Path) -> tuple[Path, ...]:
    """Where recordings are on a stick, or in a folder like one, that this folder is."""
    return (folder / ON_THE_STICK, folder)


def look(ledger: Ledger, folders: Iterable[Path], known: Known) -> tuple[PcOnStick, ...]:
    """PCs with recordings that are in no book yet. What cannot be read is passed over."""
    pcs = list(_pcs(folders))
    if not pcs:
        return ()
    with ledger.session() as session:
        jobs = jobs_of_pcs(session)
        found = []
        for folder, about in pcs[:MOST_PCS]:
            job, title = _job_of(about, jobs)
            boots = {path: _boot_in(path, known) for path in _recordings(folder)}
            having = stored.jobs_of_boots(session, boots.values())
            # Of a PC without a job every book counts: nothing else tells what was taken in of it.
            new = tuple(
                path
                for path, boot in boots.items()
                if boot and (job not in having.get(boot, ()) if job else boot not in having)
            )
            name = about.name.strip()[:LONGEST_NAME] or folder.name
            if new:
                found.append(PcOnStick(name, about.machine, new, job, title))
    return tuple(found)


def _job_of(about: AboutPc, jobs: Mapping[WhichPc, tuple[int, str]]) -> tuple[int | None, str]:
    """The job about a PC, with its title; none of a PC that nothing tells from others."""
    here = WhichPc(PcKind.REAL, about.machine)
    return jobs.get(here, (None, "")) if about.machine else (None, "")


@dataclass(frozen=True)
class Opened:
    """What recordings are that somebody opened outside the window."""

    job: int | None
    """The job that has one of them already; None where none has."""
    pcs: tuple[PcOnStick, ...]
    """Whose the others are."""


def look_at(ledger: Ledger, files: Sequence[Path]) -> Opened:
    """The same of single recordings, each of the PC that its folder is of, where that says so."""
    known, job, pcs = Known(), None, list[PcOnStick]()
    with ledger.session() as session:
        jobs = jobs_of_pcs(session)
        boots = {path: _boot_in(path, known) for path in files}
        having = stored.jobs_of_boots(session, boots.values())
        for path, boot in boots.items():
            if boot in having:
                job = having[boot][0]
                continue
            about = _about(path.parent) or AboutPc()
            number, title = _job_of(about, jobs)
            name = about.name.strip()[:LONGEST_NAME] or path.name.partition(".")[0]
            pcs.append(PcOnStick(name, about.machine, (path,), number, title))
    return Opened(job, tuple(pcs))


def take_in_from(ledger: Ledger, pcs: Sequence[PcOnStick]) -> list[TakenIn]:
    """Recordings into the books of their PCs; a PC without a job gets one, by its name.

    Each is a step of its own. Raises Trouble where the ledger cannot be written.
    """
    return [_taken(ledger, pc) for pc in pcs]


def _taken(ledger: Ledger, pc: PcOnStick) -> TakenIn:
    which = WhichPc(PcKind.REAL, pc.machine)
    number, boots, said = pc.job, 0, list[Reason | Refused]()
    before = _slower(ledger, number)
    for path in pc.new:
        try:
            file = read_recording_file(path)
        except Refused as refusal:
            log.warning("not taken in: %s", refusal)
            said.append(refusal)
            continue
        if number is None:
            number = take_in(ledger, Card("", pc.name), Facts(), which)
        imported = keep_file(ledger, number, file, which)
        boots += imported.boot is not None
        said.extend(imported.remarks)
    now = _slower(ledger, number) if boots else None
    title, is_news = pc.title or pc.name, now is not None and before is None
    slower = now if is_news else None
    return TakenIn(number or 0, title, pc.job is None, boots, tuple(said), slower)


def _slower(ledger: Ledger, number: int | None) -> Slower | None:
    """Whether a job's PC got slower, as the shelf tells."""
    if number is None:
        return None
    with ledger.session() as session:
        spine = read_spine(session, number)
    if spine is None or spine.slower_by is None or spine.slower_since is None:
        return None
    return Slower(spine.slower_by, spine.measure, spine.slower_since)


def _pcs(folders: Iterable[Path]) -> Iterator[tuple[Path, AboutPc]]:
    """Folders that say which PC they are of."""
    for folder in dict.fromkeys(folders):
        try:
            inside = sorted(folder.iterdir())[:MOST_PCS]
        except OSError:
            continue
        for one in inside:
            if (about := _about(one)) is not None:
                yield one, about


def _about(folder: Path) -> AboutPc | None:
    """What a folder says it is of; None where that is something else."""
    try:
        return msgspec.json.decode(read_bounded(folder / ABOUT, LARGEST_ABOUT), type=AboutPc)
    except (OSError, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return None


def _recordings(folder: Path) -> list[Path]:
    try:
        found = sorted(path for path in folder.iterdir() if path.name.endswith(ENDINGS))
    except OSError:
        return []
    return found[:MOST_FILES]


def _boot_in(path: Path, known: Known) -> str:
    """The boot that a recording says it is of; empty where it is none."""
    try:
        there = path.stat()
        if abs(time.time() - there.st_mtime) < STILL_COPIED_SECONDS:
            return ""  # it is new once it is whole
        seen = (path, there.st_size, there.st_mtime)
        if seen not in known.boots:
            known.boots[seen] = _boot_of(read_bounded(path, LARGEST_HEADER))
    except (OSError, zlib.error, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return ""
    return known.boots[seen]


def _boot_of(head: bytes) -> str:
    if head.startswith(b"\x1f\x8b"):
        head = zlib.decompressobj(GZIP).decompress(head, LARGEST_HEADER)
    return msgspec.json.decode(head.partition(b"\n")[0], type=Header).boot_id
