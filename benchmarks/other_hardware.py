"""What a faster drive and a faster processor are expected to win, on captured boots of real PCs.

    python benchmarks/other_hardware.py [FOLDER]

FOLDER has captures, one folder a boot (see captured.py). What was really won is known where the
same PC was captured on both: then the figures of the other boots stand in the same table. Without
a folder the one PC is asked of which a recording is kept with what a faster drive won there.
"""

import sys
from pathlib import Path

from tests.core.test_honest_costs import WON_SETTLED, WON_UP
from tests.helpers.runs import real_analysis

from captured import captured_boot
from goals import measured
from plucky_ledger.core.replay.cost import RoundReplay
from plucky_ledger.core.replay.other_hardware import (
    MORE_BY_CORES,
    on_quicker_drive,
    on_quicker_processor,
)
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure


def main(folder: Path) -> None:
    print(f"{'boot':>20} {'settled':>8} {'up':>6}  expected to be won in settled, and in system up")
    for name in sorted(path for path in folder.iterdir() if path.is_dir()):
        analysis = captured_boot(name)
        replay = RoundReplay([analysis])
        settled, up = (
            analysis.readings[measure].value for measure in (Measure.SETTLED, Measure.SYSTEM_UP)
        )
        print(f"{name.name:>20} {settled:8.1f} {up:6.1f}")
        for part, plan in (
            ("drive", replay.on_other_hardware(on_quicker_drive)),
            ("processor", replay.on_other_hardware(on_quicker_processor, MORE_BY_CORES)),
        ):
            if plan is not None and plan.saved is not None:
                print(f"{part:>36}  {_told(plan.saved)}   {_told(plan.up_saved)}", flush=True)


def _told(found: Estimate) -> str:
    return f"{found.value:5.1f} ({found.low:.1f} to {found.high:.1f})"


def of_the_kept_recording() -> None:
    """How far the promise is from what a drive ten times as fast won, in seconds."""
    plan = RoundReplay([real_analysis("slow-drive")]).on_other_hardware(on_quicker_drive)
    assert plan is not None
    assert plan.saved is not None
    for what, found, won in (
        ("settled", plan.saved, WON_SETTLED),
        ("system up", plan.up_saved, WON_UP),
    ):
        print(f"{what}: expected {_told(found)}, won {won}")
        name = f"a faster drive: {what} off by, s of {won}"
        measured(name, abs(found.value - won), 0.2 * won, "{:.1f}")


if __name__ == "__main__":
    if len(sys.argv) > 1:
        main(Path(sys.argv[1]))
    else:
        of_the_kept_recording()
