"""Per-program readings of every process of every user, cheap enough to take at each tick.

The file /proc/<pid>/stat of each process is kept open and read again from its start. That spares
the path look-up, and the kept file belongs to that very process: when its pid is used again the
read fails instead of telling of a stranger. Dearer files are read only for what moved.
"""

import heapq
import os
import resource
import shlex
from pathlib import Path

import msgspec

from plucky_ledger.recording.lines import Line, ProgramLine, ProgramRow, ProgramsLine, bounded

SPARE_DESCRIPTORS = 64
"""Open files left for everything else."""
KERNEL_PARENT = 2
"""Pid of the kernel thread that is parent of all kernel threads."""
STAT_BYTES = 2048
DEAR_READS = 2
"""Number of processes whose proportional memory (PSS) is read at each sample: the kernel walks all
their pages for it."""
MUCH_MEMORY = 0.2
"""Relative change of resident memory after which the PSS is read again."""
MUCH_TO_SHARE_PAGES = 2_000
"""From how much memory on a program's family is walked again when it has forked."""
ASKED_LATELY = 2.0
"""Shortest seconds between two PSS reads for that reason."""
NAME_LIMIT, COMMAND_LIMIT = 64, 1024
MOST_LOOKS = 8
"""How often a process is described at most: one may change its name at every sample."""
LONG_IDLE_SECONDS = 2.0
OLDEST_SECONDS, OLDEST_OF_KERNEL_SECONDS = 0.9, 4.9
"""How old the reading of an idle program, and of an idle thread of the kernel, may be. That is no
older than a sample where they are taken every second."""
TURNS = 8
"""Number of groups in which idle processes take turns, so that no sample reads all of them."""


class _Run(msgspec.Struct):
    """One process being watched."""

    number: int
    pid: int
    parent: int
    kernel: bool
    user: int
    descriptor: int | None
    """None when there were too many files to keep this one open."""
    start_tick: bytes
    text: bytes = b""
    cpu_ticks: int = -1
    children_ticks: int = 0
    pages: int = 0
    bytes_read: int | None = None
    bytes_written: int | None = None
    shared_pages: int | None = None
    proportional_bytes: int | None = None
    queued_seconds: float | None = None
    faults: int | None = None
    """Page faults so far, of a process whose PSS may not be read."""
    moved_at: float = 0.0
    due: float = 0.0
    """When it is read again: at every sample, unless it has long been idle."""
    pages_then: int = 0
    """Resident pages when the PSS was last read."""
    asked_at: float = 0.0
    described: ProgramLine | None = None
    """As it was described last."""
    looks: int = 0
    """How often it was looked at to be described."""

    def rest(self, seconds: float) -> None:
        """It was idle: after a while it is read in turn with the others that are."""
        if seconds - self.moved_at < LONG_IDLE_SECONDS:
            return
        age = OLDEST_OF_KERNEL_SECONDS if self.kernel else OLDEST_SECONDS
        first = self.due <= self.moved_at
        self.due = seconds + (age * (1 + self.number % TURNS) / TURNS if first else age)


class ProgramSampler:
    """Watches all processes; each call of ``sample`` tells what changed since the one before."""

    def __init__(self, proc: Path = Path("/proc"), own_pid: int | None = None) -> None:
        self._proc = f"{proc}/"
        self._own_pid = os.getpid() if own_pid is None else own_pid
        self._as_user = os.geteuid()
        self._tells_queues = (proc / "self/schedstat").exists()
        self._ticks = os.sysconf("SC_CLK_TCK")
        self._page = os.sysconf("SC_PAGE_SIZE")
        self._runs: dict[int, _Run] = {}
        self._next = 0
        self._due: dict[int, _Run] = {}
        """Runs whose memory has changed much since it was last asked for in the dear way."""
        self._stale: dict[int, _Run] = {}
        """Runs that share what they hold with one more since then."""
        self._room = _raise_file_limit() - SPARE_DESCRIPTORS
        self._kept = 0
        self.denied = False
        """Whether the disk use of some program could not be read for lack of permission."""

    @property
    def processes(self) -> int:
        """Processes there were at the last sample, kernel threads left out."""
        return sum(not run.kernel for run in self._runs.values())

    def sample(self, seconds: float) -> list[Line]:
        """Lines for the runs that are new, changed or gone; ``seconds`` is the instant."""
        lines: list[Line] = []
        rows: list[ProgramRow] = []
        present = {int(name) for name in os.listdir(self._proc) if name.isdigit()}
        ended = [self._drop(pid) for pid in self._runs.keys() - present]
        for pid in present:
            run = self._runs.get(pid)
            if run is not None and seconds < run.due:
                continue
            text = self._text(pid, run)
            if run is not None and text is None:
                ended.append(self._drop(pid))
                run, text = None, self._text(pid, None)
            if text is None:
                continue
            if run is not None and text == run.text:
                run.rest(seconds)
                continue
            fields = text[text.rindex(b")") + 2 :].split(b" ", 22)
            if run is not None and fields[19] != run.start_tick:
                ended.append(self._drop(pid))
                run = None
            if run is None:
                run = self._new_run(pid, fields)
            lines.extend(self._described_anew(run, text, fields))
            if self._moved(run, text, fields):
                run.moved_at, run.due = seconds, seconds
                rows.append(self._row(run))
            else:
                run.rest(seconds)
        rows.extend(self._dear_rows(seconds))
        if rows or ended:
            lines.append(ProgramsLine(seconds, tuple(rows), tuple(ended)))
        return lines

    def _text(self, pid: int, run: _Run | None) -> bytes | None:
        """Text of the process's stat file; None when the process has gone."""
        try:
            if run is not None and run.descriptor is not None:
                return os.pread(run.descriptor, STAT_BYTES, 0) or None
            return _read(f"{self._proc}{pid}/stat") or None
        except OSError:
            return None

    def _new_run(self, pid: int, fields: list[bytes]) -> _Run:
        kernel = pid == KERNEL_PARENT or int(fields[1]) == KERNEL_PARENT
        user = _owner(f"{self._proc}{pid}/")
        run = _Run(self._next, pid, int(fields[1]), kernel, user, self._keep_open(pid), fields[19])
        self._next += 1
        parent = self._runs.get(run.parent)
        if parent is not None and parent.pages > MUCH_TO_SHARE_PAGES:
            family = (parent, *(r for r in self._runs.values() if r.parent == parent.pid))
            self._stale.update((member.number, member) for member in family)
        self._runs[pid] = run
        return run

    def _keep_open(self, pid: int) -> int | None:
        if self._kept >= self._room:
            return None
        try:
            descriptor = os.open(f"{self._proc}{pid}/stat", os.O_RDONLY | os.O_CLOEXEC)
        except OSError:
            return None
        self._kept += 1
        return descriptor

    def _drop(self, pid: int) -> int:
        run = self._runs.pop(pid)
        self._due.pop(run.number, None)
        self._stale.pop(run.number, None)
        if run.descriptor is not None:
            os.close(run.descriptor)
            self._kept -= 1
        return run.number

    def close(self) -> None:
        """Close all files."""
        for pid in list(self._runs):
            self._drop(pid)

    def _described(self, run: _Run, text: bytes, fields: list[bytes]) -> ProgramLine:
        folder = f"{self._proc}{run.pid}/"
        name = _clean(_name(text), NAME_LIMIT)
        command = _command(_read_or_empty(folder + "cmdline"))
        if name.startswith("("):
            # What a service manager calls a process that is yet to start its program.
            name, command = _executable(folder) or (name, command)
        return ProgramLine(
            run=run.number,
            pid=run.pid,
            start_tick=int(run.start_tick),
            parent=max(0, int(fields[1])),
            name=name,
            command=command,
            user=run.user,
            group=_control_group(_read_or_empty(folder + "cgroup")),
            started=int(run.start_tick) / self._ticks,
            own=run.pid == self._own_pid,
        )

    def _described_anew(self, run: _Run, text: bytes, fields: list[bytes]) -> list[Line]:
        """Description of a process that is new, or has become another program.

        What forks becomes another program a moment later, which may have the same name: so it is
        looked at once more in any case. Threads of the kernel change their names with their work.
        """
        if run.looks and (run.kernel or run.looks >= MOST_LOOKS):
            return []
        if run.looks > 1 and _name(text) == _name(run.text):
            return []
        run.looks += 1
        line = self._described(run, text, fields)
        if line == run.described:
            return []
        run.described = line
        return [line]

    def _moved(self, run: _Run, text: bytes, fields: list[bytes]) -> bool:
        """Take over what changed; False when nothing that is recorded did."""
        cpu_ticks, pages = int(fields[11]) + int(fields[12]), max(0, int(fields[21]))
        children_ticks = int(fields[13]) + int(fields[14])
        run.text = text
        if (cpu_ticks, pages, children_ticks) == (run.cpu_ticks, run.pages, run.children_ticks):
            return False
        if not run.kernel:
            self._read_io(run)
            self._read_queue(run, cpu_ticks)
            if pages != run.pages:
                self._read_shared(run)
            if abs(pages - run.pages_then) > MUCH_MEMORY * max(run.pages_then, 1):
                self._due[run.number] = run
        run.cpu_ticks, run.pages, run.children_ticks = cpu_ticks, pages, children_ticks
        if not run.kernel and self._as_user not in {0, run.user}:
            run.faults = int(fields[7])
        return True

    def _read_io(self, run: _Run) -> None:
        try:
            text = _read(f"{self._proc}{run.pid}/io")
        except PermissionError:
            self.denied = True
            return
        except OSError:
            return  # it went between two reads; the last known figures stand
        for line in text.splitlines():
            if line.startswith(b"read_bytes:"):
                run.bytes_read = int(line[11:])
            elif line.startswith(b"write_bytes:"):
                run.bytes_written = int(line[12:])

    def _read_queue(self, run: _Run, cpu_ticks: int) -> None:
        """How long it waited for a core: the kernel tells it of the first thread only."""
        if not self._tells_queues:
            return
        fields = _read_or_empty(f"{self._proc}{run.pid}/schedstat").split()
        if len(fields) < 2:
            return
        ran, waited = int(fields[0]), int(fields[1])
        if ran > 0:
            worked = max(cpu_ticks / self._ticks, ran * 1e-9)
            run.queued_seconds = round(waited / ran * worked, 3)

    def _dear_rows(self, seconds: float) -> list[ProgramRow]:
        """Read the PSS of the largest few that are due: it is the most expensive reading."""
        ripe = [run for run in self._stale.values() if seconds - run.asked_at > ASKED_LATELY]
        for run in ripe:
            del self._stale[run.number]
            self._due[run.number] = run
        chosen = heapq.nlargest(DEAR_READS, self._due.values(), key=lambda run: run.pages)
        for run in chosen:
            del self._due[run.number]
            run.pages_then, run.asked_at = run.pages, seconds
            for line in _read_or_empty(f"{self._proc}{run.pid}/smaps_rollup").splitlines():
                if line.startswith(b"Pss:"):
                    run.proportional_bytes = int(line.split()[1]) * 1024
                    break
        return [self._row(run) for run in chosen if run.proportional_bytes is not None]

    def _read_shared(self, run: _Run) -> None:
        fields = _read_or_empty(f"{self._proc}{run.pid}/statm").split()
        if len(fields) > 2:
            run.shared_pages = int(fields[2])

    def _row(self, run: _Run) -> ProgramRow:
        return ProgramRow(
            run.number,
            run.cpu_ticks / self._ticks,
            run.pages * self._page,
            run.bytes_read,
            run.bytes_written,
            run.children_ticks / self._ticks,
            None if run.shared_pages is None else run.shared_pages * self._page,
            run.proportional_bytes,
            None if run.faults is None else run.faults * self._page,
            run.queued_seconds,
        )


def _name(text: bytes) -> bytes:
    """Name of the program, from the text of a stat file."""
    return text[text.index(b"(") + 1 : text.rindex(b")")]


def _raise_file_limit() -> int:
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    if soft < hard:
        resource.setrlimit(resource.RLIMIT_NOFILE, (hard, hard))
    return min(hard, 65_536) if hard > 0 else 65_536


def _read(path: str) -> bytes:
    descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
    try:
        return os.read(descriptor, 65_536)
    finally:
        os.close(descriptor)


def _read_or_empty(path: str) -> bytes:
    try:
        return _read(path)
    except OSError:
        return b""


def _executable(folder: str) -> tuple[str, str] | None:
    """Name and path of what a process really runs; None where that may not be read."""
    try:
        path = os.readlink(f"{folder}exe").removesuffix(" (deleted)")
    except OSError:
        return None
    return bounded(path.rpartition("/")[2], NAME_LIMIT), bounded(path, COMMAND_LIMIT)


def _owner(folder: str) -> int:
    try:
        return os.stat(folder).st_uid
    except OSError:
        return -1


def _control_group(text: bytes) -> str:
    """Path in the unified hierarchy, from the text of /proc/<pid>/cgroup."""
    for line in text.splitlines():
        if line.startswith(b"0::"):
            return _clean(line[3:], COMMAND_LIMIT)
    return ""


def _command(arguments: bytes) -> str:
    """Arguments as one line, quoted so that it splits into the same again.

    A single one stays as it is: it may be a title that the program has given itself.
    """
    words = [
        word.decode("utf-8", "replace") for word in arguments[: 4 * COMMAND_LIMIT].split(b"\0")
    ]
    while words and not words[-1]:
        words.pop()
    return bounded((shlex.join(words) if len(words) > 1 else "".join(words)).strip(), COMMAND_LIMIT)


def _clean(raw: bytes, limit: int) -> str:
    return bounded(raw[: 4 * limit].decode("utf-8", "replace").strip(), limit)
