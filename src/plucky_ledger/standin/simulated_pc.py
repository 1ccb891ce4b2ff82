"""The stand-in PC as something that can be asked and told, as a real one can."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from time import sleep
from typing import ClassVar

import msgspec

from plucky_ledger.core.entries.states import NOT_STARTED, STARTED, EntryState
from plucky_ledger.core.job.changes import ChangeKind
from plucky_ledger.core.pc.abilities import Abilities, RecordHow
from plucky_ledger.core.pc.room import Heap, HeapKind, Survey
from plucky_ledger.core.pc.stopping import Stopped
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.recording.condition import ConditionLine
from plucky_ledger.recording.lines import Line, PcFacts
from plucky_ledger.recording.pc import GoingOn, Listener, Pc
from plucky_ledger.standin.boot_run import Setup, Switch
from plucky_ledger.standin.museum import GIFT_SHOP, TICKET_DESK
from plucky_ledger.standin.pc import StandinBoot, StandinPc
from plucky_ledger.standin.stopping import entry_behind, stop

PCS: Mapping[str, StandinPc] = {"ticket-desk": TICKET_DESK, "gift-shop": GIFT_SHOP}
"""The stand-in PCs there are, by name."""
SPEED = 20.0
"""How much faster than the wall clock a stand-in PC runs while somebody looks on."""
RECORD_SECONDS = 120.0
HOURS_ON = 21_400
"""How long a stand-in PC's drive has been on in its life."""
HEAPS = (
    (HeapKind.SYSTEM, "/usr", 0.031),
    (HeapKind.FOLDER, "/home/desk/Scans", 0.38),
    (HeapKind.FOLDER, "/var/lib/saltmarsh-backup", 0.29),
    (HeapKind.DOWNLOADS, "/home/desk/Downloads", 0.052),
    (HeapKind.BIN, "/home/desk/.local/share/Trash", 0.044),
    (HeapKind.PACKAGE_CACHE, "/var/cache/apt", 0.019),
    (HeapKind.LOGS, "/var/log", 0.011),
    (HeapKind.PROGRAM_CACHES, "/home/desk/.cache", 0.014),
    (HeapKind.OLD_KERNELS, "/lib/modules/6.1.0-18-desktop", 0.004),
    (HeapKind.UNNEEDED, "librope3, tidewatch-data", 0.003),
    (HeapKind.THUMBNAILS, "/home/desk/.cache/thumbnails", 0.002),
)
"""What takes the room on a stand-in PC, as shares of what is taken."""
FILES, PACKAGES = 900_000, 14_000
"""How many files, and packages, a drive would have if each were as large as those in its heaps."""
_SWITCHES = {
    **dict.fromkeys(STARTED, Switch.ON),
    **dict.fromkeys(NOT_STARTED, Switch.OFF),
    EntryState.LATER: Switch.LATER,
}

AT_REST_SECONDS = 300.0
"""How long a stand-in PC has been on when somebody looks at what it does now."""
_looked_at: dict[str, StandinBoot] = {}
"""The PCs that somebody looks at now, by name."""

Recorder = Callable[[StandinBoot, Path, float, Callable[[Sequence[Line]], None]], None]
"""Records a boot to a file for so many seconds."""


def setup_of(
    states: Mapping[str, EntryState], changes: frozenset[ChangeKind], updates_running: bool = False
) -> Setup:
    """The state a stand-in PC is in: how its entries are set, and what else was changed."""
    switches = tuple((entry, _SWITCHES[state]) for entry, state in states.items())
    return Setup(switches, bigger_swap=ChangeKind.SWAP in changes, updates_running=updates_running)


@dataclass(frozen=True, kw_only=True)
class SimulatedPc(Pc):
    """A stand-in PC in one state. Recording it restarts it."""

    name: str
    setup: Setup
    seed: int
    recorder: Recorder
    speed: float = SPEED
    cannot: ClassVar[TroubleCode] = TroubleCode.PC_IS_SIMULATED

    @property
    def which(self) -> WhichPc:
        """Which PC this is."""
        return WhichPc(PcKind.STAND_IN, self.name)

    @property
    def abilities(self) -> Abilities:
        """It can be restarted and recorded; it has no past and cannot be armed."""
        return Abilities(
            record=RecordHow.RESTARTS, facts=True, speed=self.speed, seconds=RECORD_SECONDS
        )

    def facts(self) -> PcFacts:
        """What it has."""
        return PCS[self.name].facts

    def record(
        self,
        path: Path,
        seconds: float,
        listener: Listener,
        going_on: GoingOn,
    ) -> None:
        """Restart it and record it to a new file, until time is up or ``going_on`` says no."""
        self.recorder(self._restarted(self.speed, going_on), path, seconds, listener)

    def record_at_rest(
        self,
        path: Path,
        seconds: float,
        listener: Listener,
        going_on: GoingOn,
    ) -> None:
        """Record it as it runs now, at the wall clock's pace: it was started long ago."""
        boot = self._restarted(1.0, going_on)
        boot.run.machine.run_until(AT_REST_SECONDS)
        _looked_at[self.name] = boot
        try:
            self.recorder(boot, path, seconds, listener)
        finally:
            _looked_at.pop(self.name, None)

    def _restarted(self, speed: float, going_on: Callable[[], bool]) -> StandinBoot:
        """It, just started, as somebody looks on who lets it run so much faster than the clock."""

        def keep_pace(passed: float) -> bool:
            sleep(passed / speed)
            return going_on()

        boot = PCS[self.name].restart(self.setup, self.seed, datetime.now(UTC))
        boot.keep_pace = keep_pace
        return boot

    def stop(self, what: str) -> Stopped:
        """End what an entry runs, told by its id or a command. Raises Refused: it does not run."""
        pc = PCS[self.name]
        entry = entry_behind(pc, what)
        stopped = stop(pc, self.setup, entry)
        if (boot := _looked_at.get(self.name)) is not None:
            boot.end(entry.entry_id, stopped.came_back_seconds)
        return stopped

    def survey(
        self,
        progress: Callable[[int, str], bool],
        as_administrator: bool = False,
    ) -> Survey:
        """What takes the room on its drive: as if it took a moment to look."""
        hardware = PCS[self.name].hardware
        used = hardware.disk_bytes - hardware.disk_free_bytes
        heaps: list[Heap] = []
        for kind, path, share in HEAPS:
            sleep(1 / self.speed)
            parts = PACKAGES if kind is HeapKind.UNNEEDED else FILES
            heaps.append(Heap(kind, path, int(share * used), int(share * parts)))
            files = sum(heap.files for heap in heaps)
            if not progress(files, path):
                break
        return Survey(
            heaps=tuple(sorted(heaps, key=lambda heap: -heap.size_bytes)),
            counted_bytes=sum(heap.size_bytes for heap in heaps),
            files=sum(heap.files for heap in heaps),
            unreadable=0,
            size_bytes=hardware.disk_bytes,
            free_bytes=hardware.disk_free_bytes,
            whole=len(heaps) == len(HEAPS),
        )

    def inspect(self) -> ConditionLine:
        """Its state as its drives and file systems tell it themselves."""
        condition = PCS[self.name].condition
        replaced = msgspec.structs.replace
        return replaced(
            condition,
            drives=tuple(
                replaced(drive, failing=False, bad_sectors=0, hours=HOURS_ON)
                for drive in condition.drives
            ),
            file_systems=tuple(replaced(one, check_due=False) for one in condition.file_systems),
        )
