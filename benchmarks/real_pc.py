"""The recorder on a real PC, at full speed and held to 0.3 cores.

How soon after the manager's first service the first sample is, what the recorder costs of a core,
and how much of what the PC did is known; then system up with and without recording, in turns.
"""

import statistics
import sys
import time
from dataclasses import dataclass

from tests.real_pc.disk import NotHere
from tests.real_pc.entries import STARTING
from tests.real_pc.install import bench_pc
from tests.real_pc.pc import RealPc
from tests.real_pc.use import RECORDINGS, ledger_command

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.exchange.boots import RecordedBoot, boot_from_bytes

SPEEDS = (None, 0.3)
TURNS = int(sys.argv[1]) if len(sys.argv) > 1 else 4
REST_SECONDS = 20.0
MARKS = (Mark.SYSTEM_UP, Mark.SIGN_IN_SHOWN, Mark.SIGNED_IN, Mark.DESKTOP_SHOWN)


@dataclass(frozen=True)
class Boot:
    """One boot: when it was up by the service manager, and what was recorded of it."""

    system_up: float
    recorded: RecordedBoot | None


def main() -> None:
    try:
        with bench_pc("Bench PC") as (pc, job):
            for cores in SPEEDS:
                print(f"-- {'full speed' if cores is None else f'{cores} cores'}")
                boots = [boot(pc, job, cores, turn % 2 == 0) for turn in range(2 * TURNS)]
                report([b.recorded for b in boots if b.recorded])
                for words, with_it in (("with", True), ("without", False)):
                    ups = [b.system_up for b in boots if bool(b.recorded) is with_it]
                    print(
                        f"system up {words} recording: {', '.join(f'{up:.2f}' for up in ups)} s,"
                        f" median {statistics.median(ups):.2f}"
                    )
    except NotHere as reason:
        print(f"no real PC here: {reason}")


def boot(pc: RealPc, job: str, cores: float | None, recorded: bool) -> Boot:
    if recorded:
        ledger_command(pc, "arm", job, "--system", "--boots", "1")
    pc.switch_off()
    pc.switch_on(cores)
    pc.wait_until_up()
    time.sleep(REST_SECONDS)
    shown = pc.run("systemctl", "show", "--property=FinishTimestampMonotonic", "--value")
    if recorded:
        pc.run("systemctl", "stop", "plucky-ledger-recorder.service")
    (path,) = pc.path(RECORDINGS).glob("*/*.gz") if recorded else (None,)
    found = boot_from_bytes(path.read_bytes()) if path else None
    if path:
        path.unlink()
    return Boot(int(shown) / 1e6, found)


def report(boots: list[RecordedBoot]) -> None:
    for found in boots:
        timeline, samples = found.timeline, found.timeline.samples
        assert samples is not None
        did = {a.entry_id: a for a in timeline.activities}
        begun = [a.starting_from for a in timeline.activities if a.starting_from is not None]
        over = [a for a in timeline.activities if a.up_at is not None or a.ended_at is not None]
        up = found.boot.marks.get(Mark.SYSTEM_UP, samples.end)
        late = samples.seconds > up
        own, at = samples.own_cpu_seconds, samples.seconds
        rest = (own[late][-1] - own[late][0]) / (at[late][-1] - at[late][0])
        early = (own[~late][-1] - own[~late][0]) / (at[~late][-1] - at[~late][0])
        print(
            f"first sample {samples.seconds[0] - min(begun):.2f} s after the first service;"
            f" own cost {100 * early:.2f} % of a core until up, {100 * rest:.2f} % at rest;"
            f" known: {len(over)} of {len(did)} units with an up or an end,"
            f" {sum(mark in found.boot.marks for mark in MARKS)} of {len(MARKS)} marks,"
            f" {sum(name in did and did[name].up_at is not None for name in STARTING)}"
            f" of {len(STARTING)} added entries"
        )


if __name__ == "__main__":
    sys.exit(main())
