"""Interface to a PC: to query it, record it, arm it and restart it."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import ClassVar

from plucky_ledger.core.pc.abilities import Abilities, RecordHow
from plucky_ledger.core.pc.arming import Afterwards, Level
from plucky_ledger.core.pc.room import Survey
from plucky_ledger.core.pc.which import WhichPc
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.recording.condition import ConditionLine
from plucky_ledger.recording.lines import Line, PcFacts

Listener = Callable[[Sequence[Line]], None]
"""Takes the lines of a recording as they are written."""
GoingOn = Callable[[], bool]
"""Whether to go on; asked again and again."""


class Pc:
    """A PC of which nothing can be had from here; one that can be asked says so by its abilities,
    and answers itself. What a PC cannot do it refuses for the reason in ``cannot``.
    """

    cannot: ClassVar[TroubleCode] = TroubleCode.PC_IS_ELSEWHERE

    def __init__(self, which: WhichPc) -> None:
        self._which = which

    @property
    def which(self) -> WhichPc:
        """Which PC it is."""
        return self._which

    @property
    def abilities(self) -> Abilities:
        """What it can do for us from here."""
        return Abilities(record=RecordHow.NOT_HERE)

    @property
    def boot_id(self) -> str:
        """The kernel's name for the boot it is in; empty where unknown."""
        return ""

    def facts(self) -> PcFacts:
        """What it has."""
        raise Refused(self.cannot)

    def record(self, path: Path, seconds: float, listener: Listener, going_on: GoingOn) -> None:
        """Record it to a new file for so long, or until ``going_on`` says no. Raises Trouble."""
        raise Refused(self.cannot)

    def record_at_rest(
        self, path: Path, seconds: float, listener: Listener, going_on: GoingOn
    ) -> None:
        """The same of a PC as it runs now, without restarting it. Raises Trouble."""
        self.record(path, seconds, listener, going_on)

    def past_boots(
        self, progress: Callable[[int, int], bool], as_administrator: bool = False
    ) -> list[bytes]:
        """Its past boots as recordings, newest first. Raises Trouble.

        ``progress`` is told how many boots and lines were read; False stops. What not everybody may
        read is read ``as_administrator``, who is asked for.
        """
        raise Refused(self.cannot)

    def arm(self, folder: Path, boots: int, level: Level, label: str, then: Afterwards) -> None:
        """Make the recorder start with its next boots. Raises Trouble; nothing is left then.

        ``label`` is the job's, by which it can be disarmed.
        """
        raise Refused(self.cannot)

    def disarm(self, folder: Path) -> bool:
        """Remove every trace of an arming; False when it was not armed. Raises Trouble."""
        return False

    def survey(
        self, progress: Callable[[int, str], bool], as_administrator: bool = False
    ) -> Survey:
        """What takes the room on its drive. ``progress`` is told how many files were counted, and
        where; False stops, and what was counted is told. What not everybody may look into is looked
        into ``as_administrator``, who is asked for. Raises Trouble.
        """
        raise Refused(self.cannot)

    def inspect(self) -> ConditionLine:
        """Its state as the administrator sees it, who is asked for. Raises Trouble."""
        raise Refused(self.cannot)

    def restart(self) -> None:
        """Restart it: everything that is open is closed. Raises Trouble."""
        raise Refused(self.cannot)

    def restart_ends(self) -> tuple[Reason, ...]:
        """What else a restart would end, or is held up by, as far as the PC says."""
        return ()
