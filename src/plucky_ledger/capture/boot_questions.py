"""Queries about this boot to the PC's own services: managers, sign-in, the log, packages.

Each is asked by itself and bounded, so that one that is silent or broken takes nothing from the
others, and nothing from the recording.
"""

import os
import time
from collections.abc import Callable, Iterable, Iterator
from functools import partial
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from plucky_ledger.capture.inquiry import GoingOn, Inquiry, InquiryAnswer, ask
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import become, homes, is_administrator, own_home, user_name
from plucky_ledger.recording.lines import (
    ActivityLine,
    ContextLine,
    EntryLine,
    Line,
    NoteLine,
    PackagesLine,
    bounded,
    said,
)

if TYPE_CHECKING:
    from plucky_ledger.capture.packages.packages import PackageManager

SERVICES_SECONDS = 240.0
LOG_SECONDS = 60.0
PACKAGES_SECONDS = 60.0
CONDITION_SECONDS = 10.0
OTHERS_SECONDS = 30.0
MOST_OTHERS = 4
"""Other people that are asked what starts with them."""
MOST_PACKAGES = 20_000
LONGEST_START_SECONDS = 600.0
LOOK_AGAIN_SECONDS = 1.0

CONDITION_NOT_MET = "exec-condition"
"""Result of a unit whose condition kept it from running. org.freedesktop.systemd1(5)."""
_MISSING = (
    (ReasonCode.NO_SERVICE_MANAGER, ReasonCode.SERVICES_MISSING),
    (ReasonCode.NO_USER_SERVICES, ReasonCode.USER_SERVICES_MISSING),
)
_SHORT = frozenset({ReasonCode.SERVICES_MISSING, ReasonCode.USER_SERVICES_MISSING})


class EarlyAnswers:
    """What the managers tell as soon as start-up is finished, while it is still recorded.

    So a recording has its services also where the PC is switched off before it has come to rest.
    What cannot be told yet is asked for again at the end, and noted there if it must be.
    """

    def __init__(self) -> None:
        self._inquiries = (Inquiry(_system_once_up), Inquiry(_user_once_up))
        self._answered = [False, False]
        self._short = [False, False]

    def take(self) -> list[Line]:
        """Lines that have come since the last time."""
        taken: list[Line] = []
        for index, inquiry in enumerate(self._inquiries):
            lines = inquiry.take()
            self._short[index] |= any(_is_note_of(line, _SHORT) for line in lines)
            lines = [line for line in lines if not isinstance(line, NoteLine)]
            self._answered[index] |= bool(lines)
            taken.extend(lines)
        return taken

    @property
    def told(self) -> frozenset[ReasonCode]:
        """Notes that no longer hold, because what they said was missing has been read since."""
        asked = zip(_MISSING, self._inquiries, self._answered, self._short, strict=True)
        return frozenset(
            code
            for codes, inquiry, answered, short in asked
            if answered and not short and inquiry.over and inquiry.missing is None
            for code in codes
        )

    def stop(self) -> None:
        """Stop querying."""
        for inquiry in self._inquiries:
            inquiry.stop(None)


def _system_once_up() -> Iterable[Line]:
    from plucky_ledger.capture.services.services import wait_until_up

    if not wait_until_up("SYSTEM", time.monotonic() + LONGEST_START_SECONDS):
        return []
    return _of_the_system()


def _of_the_system() -> Iterator[Line]:
    """What the system's manager tells, and what starts besides it."""
    from plucky_ledger.capture.services.services import lines_of_the_system
    from plucky_ledger.capture.services.start_files import lines_of
    from plucky_ledger.linux.start_files.sources import looked_for_the_system

    yield from lines_of_the_system()
    yield from lines_of(looked_for_the_system())


def _user_once_up() -> Iterable[Line]:
    """The user's services and sign-in programs, once somebody has signed in and they are up."""
    from plucky_ledger.capture.services.services import bus_of_the_person, wait_until_up

    address, home = "SESSION", own_home()
    if is_administrator():
        while (first := bus_of_the_person(for_sure=True)) is None:
            time.sleep(LOOK_AGAIN_SECONDS)
        user, address = first
        home = homes().get(user, home)
        become(user)
    if not wait_until_up(address, time.monotonic() + LONGEST_START_SECONDS):
        return []
    return _lines_of_the_user(address, home)


def told_of_this_boot(
    going_on: GoingOn, told_before: frozenset[ReasonCode] = frozenset()
) -> list[Line]:
    """Marks, entries and what they did; a note for whatever is missing and was not told before."""
    from plucky_ledger.capture.log import system_log as journal

    told: list[Line] = [
        *_asked(_start_kind_line(journal.start_kind), LOG_SECONDS, going_on, ReasonCode.NO_LOG),
        *_asked(_of_the_system, SERVICES_SECONDS, going_on, ReasonCode.NO_SERVICE_MANAGER),
        *_asked(_of_the_user, SERVICES_SECONDS, going_on, ReasonCode.NO_USER_SERVICES),
    ]
    told.extend(_of_the_others(going_on))
    at_most = min(CONDITION_SECONDS, LOG_SECONDS)
    told.extend(ask(lambda: _condition(going_on), at_most, going_on).lines)
    told = [line for line in told if not _is_note_of(line, told_before)]
    entries = {line.entry: line for line in told if isinstance(line, EntryLine)}
    others = [line for line in told if not isinstance(line, EntryLine)]
    return [*_identified([*entries.values()], going_on), *others]


def _of_the_user() -> Iterable[Line]:
    """What the person's manager tells. Their bus refuses the administrator, who becomes them."""
    from plucky_ledger.capture.services.services import bus_of_the_person, people_here

    user, address, home = os.geteuid(), "SESSION", own_home()
    if (first := bus_of_the_person()) is not None:
        user, address = first
        home = homes().get(user, home)
    others = len(people_here() - {user})
    if (unlisted := others - (MOST_OTHERS if is_administrator() else 0)) > 0:
        yield NoteLine(said=said(ReasonCode.OTHER_PEOPLE, people=unlisted))
    if first is not None:
        become(user)
    yield from _lines_of_the_user(address, home)


def _of_the_others(going_on: GoingOn) -> Iterator[Line]:
    """What starts with other people, for the administrator; a note for those who did not answer."""
    from plucky_ledger.capture.services.services import people_here

    people = sorted(people_here())[: MOST_OTHERS + 1] if is_administrator() else []
    silent = 0
    for user in people:
        answer = ask(partial(_of_another, user), OTHERS_SECONDS, going_on)
        yield from (line for line in answer.lines if not isinstance(line, NoteLine))
        told_of_silence = any(isinstance(line, NoteLine) for line in answer.lines)
        silent += answer.missing is not None or told_of_silence
    if silent:
        yield NoteLine(said=said(ReasonCode.OTHER_PEOPLE, people=silent))


def _of_another(user: int) -> Iterator[Line]:
    """What starts with a person who is not the one who signed in, marked as theirs: entries, and
    what they did; a note where their manager does not tell.
    """
    from plucky_ledger.capture.services.services import bus_of_the_person
    from plucky_ledger.core.entries.kinds import id_of_another

    first = bus_of_the_person()
    if first is not None and first[0] == user:
        return
    name, home = user_name(user), homes().get(user, Path("/"))
    become(user)
    own = set()
    for line in _lines_of_the_user(f"unix:path=/run/user/{user}/bus", home):
        if isinstance(line, EntryLine) and line.owner == "user":
            own.add(line.entry)
            theirs = bounded(id_of_another(name, line.entry))
            shown = bounded(f"{line.name} ({name})")
            yield msgspec.structs.replace(line, entry=theirs, name=shown)
        elif isinstance(line, ActivityLine) and line.entry in own:
            after = tuple(bounded(id_of_another(name, one)) for one in line.after)
            theirs = bounded(id_of_another(name, line.entry))
            yield msgspec.structs.replace(line, entry=theirs, after=after)
        elif _is_note_of(line, frozenset(_MISSING[1])):
            yield line


def _lines_of_the_user(address: str, home: Path) -> Iterator[Line]:
    """Sign-in programs, and what the user's manager tells: those better that it starts itself.

    It makes a unit of each of them and lets some not start, without saying by which rule; and it
    starts some that a desktop would not. What it started is not off.
    """
    from plucky_ledger.capture.services.autostart import autostart_entries
    from plucky_ledger.capture.services.services import lines_of_the_user
    from plucky_ledger.capture.services.start_files import lines_of
    from plucky_ledger.linux.desktops import desktops_of, session_environment
    from plucky_ledger.linux.start_files.sources import looked_for_the_person

    session = session_environment(address)
    folders = Folders.of(session, home)
    desktops = desktops_of(session)
    programs = {line.entry: line for line in autostart_entries(folders.all_autostart, desktops)}
    yield from programs.values()
    told = list(lines_of_the_user(address))
    # What only held its condition against the desktop has begun, too, and did not run.
    ran = {
        line.entry
        for line in told
        if isinstance(line, ActivityLine)
        and line.starting_from is not None
        and CONDITION_NOT_MET not in line.result
    }
    for line in told:
        if isinstance(line, EntryLine) and (program := programs.get(line.entry)) is not None:
            off = None if line.entry in ran else program.off or line.off
            yield msgspec.structs.replace(line, off=off)
        else:
            yield line
    # Last: whatever lies in a person's files keeps nothing back of what their manager told.
    yield from lines_of(looked_for_the_person(home, folders.config))


def _condition(going_on: GoingOn) -> Iterator[Line]:
    from plucky_ledger.capture.hardware.condition import condition_lines
    from plucky_ledger.capture.log.history import history_lines

    yield from condition_lines(going_on)
    yield from history_lines(going_on)


def _is_note_of(line: Line, codes: frozenset[ReasonCode]) -> bool:
    return isinstance(line, NoteLine) and line.said is not None and line.said.code in codes


def _asked(
    work: Callable[[], Iterable[Line]], seconds: float, going_on: GoingOn, without: ReasonCode
) -> list[Line]:
    """The answer, with a note where it is incomplete: ``without`` says what is missing."""
    return _with_note(ask(work, seconds, going_on), without)


def _with_note(answer: InquiryAnswer, without: ReasonCode) -> list[Line]:
    if answer.missing is None:
        return answer.lines
    why = answer.missing
    note = NoteLine(said=said(without, why=why.code, **why.facts))
    return [*answer.lines, note]


def _start_kind_line(start_kind: Callable[[], str]) -> Callable[[], Iterable[Line]]:
    return lambda: [ContextLine(start_kind=start_kind())]


def _identified(entries: list[EntryLine], going_on: GoingOn) -> list[Line]:
    """The entries with their program and package, where these can be found out."""
    from plucky_ledger.capture.packages.identify import identified
    from plucky_ledger.capture.packages.packages import manager_of_this_pc

    def tell() -> Iterator[Line]:
        manager = manager_of_this_pc()
        yield from identified(entries, manager)
        if manager is not None and entries:
            yield _installed(manager)

    answer = ask(tell, PACKAGES_SECONDS, going_on)
    if answer.missing is None:
        return answer.lines
    by_entry = {line.entry: line for line in answer.lines if isinstance(line, EntryLine)}
    answered = InquiryAnswer([by_entry.get(line.entry, line) for line in entries], answer.missing)
    return _with_note(answered, ReasonCode.NO_PACKAGES)


def _installed(manager: "PackageManager") -> PackagesLine:
    versions = islice(manager.versions().items(), MOST_PACKAGES)
    return PackagesLine({bounded(name, 200): bounded(version, 200) for name, version in versions})
