"""The PC a job is about: what it can be asked and told, whichever it is."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Protocol

from plucky_ledger.core.job.job import Job
from plucky_ledger.core.pc.abilities import Abilities, RecordHow
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.pc.room import Survey
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.recording.condition import ConditionLine
from plucky_ledger.recording.lines import Line, PcFacts


class Pc(Protocol):
    """A PC, real or simulated, here or elsewhere. What it cannot do it refuses with a reason."""

    @property
    def which(self) -> WhichPc:
        """Which PC it is."""

    @property
    def abilities(self) -> Abilities:
        """What it can do for us from here."""

    @property
    def boot_id(self) -> str:
        """The kernel's name for the boot it is in; empty where nobody can tell."""

    def facts(self) -> PcFacts:
        """What it has."""

    def record(
        self,
        path: Path,
        seconds: float,
        listener: Callable[[Sequence[Line]], None],
        going_on: Callable[[], bool],
    ) -> None:
        """Record it to a new file for so long, or until ``going_on`` says no. Raises Trouble."""

    def past_boots(
        self, progress: Callable[[int, int], bool], as_administrator: bool = False
    ) -> list[bytes]:
        """Its past boots as recordings, newest first. Raises Trouble.

        ``progress`` is told how many boots and lines were read; False stops. What not everybody may
        read is read ``as_administrator``, who is asked for.
        """

    def arm(self, folder: Path, boots: int, level: Level, label: str) -> None:
        """Make the recorder start with its next boots. Raises Trouble; nothing is left then.

        ``label`` is the job's, by which it can be disarmed.
        """

    def survey(
        self, progress: Callable[[int, str], bool], as_administrator: bool = False
    ) -> Survey:
        """What takes the room on its drive. ``progress`` is told how many files were counted, and
        where; False stops, and what was counted is told. What not everybody may look into is looked
        into ``as_administrator``, who is asked for. Raises Trouble.
        """

    def inspect(self) -> ConditionLine:
        """Its state as the administrator sees it, who is asked for. Raises Trouble."""

    def restart(self) -> None:
        """Restart it: everything that is open is closed. Raises Trouble."""

    def restart_ends(self) -> tuple[Reason, ...]:
        """What else a restart would end, or is held up by, as far as the PC says."""

    def disarm(self, folder: Path) -> bool:
        """Remove every trace of an arming; False when it was not armed. Raises Trouble."""


class PcElsewhere:
    """Another PC than this one: it records itself, and its recordings are imported."""

    abilities = Abilities(record=RecordHow.NOT_HERE)
    boot_id = ""

    def __init__(self, which: WhichPc) -> None:
        self.which = which

    def facts(self) -> PcFacts:
        """Raises Refused."""
        raise Refused(TroubleCode.PC_IS_ELSEWHERE)

    def record(
        self,
        path: Path,
        seconds: float,
        listener: Callable[[Sequence[Line]], None],
        going_on: Callable[[], bool],
    ) -> None:
        """Raises Refused."""
        raise Refused(TroubleCode.PC_IS_ELSEWHERE)

    def past_boots(
        self, progress: Callable[[int, int], bool], as_administrator: bool = False
    ) -> list[bytes]:
        """Raises Refused."""
        raise Refused(TroubleCode.PC_IS_ELSEWHERE)

    def arm(self, folder: Path, boots: int, level: Level, label: str) -> None:
        """Raises Refused."""
        raise Refused(TroubleCode.PC_IS_ELSEWHERE)

    def survey(
        self, progress: Callable[[int, str], bool], as_administrator: bool = False
    ) -> Survey:
        """Raises Refused."""
        raise Refused(TroubleCode.PC_IS_ELSEWHERE)

    def inspect(self) -> ConditionLine:
        """Raises Refused."""
        raise Refused(TroubleCode.PC_IS_ELSEWHERE)

    def restart(self) -> None:
        """Raises Refused."""
        raise Refused(TroubleCode.PC_IS_ELSEWHERE)

    def restart_ends(self) -> tuple[Reason, ...]:
        """Nobody can say that from here."""
        return ()

    def disarm(self, folder: Path) -> bool:
        """Nothing of it is here."""
        return False


def this_pc() -> Pc:
    """The PC we run on."""
    from plucky_ledger.capture.real_pc import RealPc

    return RealPc()


def pc_of(job: Job) -> Pc:
    """The PC a job is about. A real one that has not told which it is may be this one."""
    if job.pc.kind is PcKind.STAND_IN:
        from plucky_ledger.usecases.recording.stand_ins import stand_in_of

        return stand_in_of(job)
    here = this_pc()
    if job.pc.name and job.pc != here.which:
        return PcElsewhere(job.pc)
    return here


def is_this_pc(job: Job) -> bool:
    """Whether a job's PC is certainly the one we run on: one that has not told may be any."""
    return job.pc.kind is PcKind.REAL and bool(job.pc.name) and job.pc == this_pc().which
