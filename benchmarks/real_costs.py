"""What entries of a real PC cost: as the product expects it, and as it is when they are really off.

Boots with everything on and boots without one entry each are taken in turns. The cost expected
from the boots with everything on stands beside what was won, each with its 95 % interval, in
settled and in system up; then observed marks beside the replay with nothing removed.
"""

import shutil
import sys
from collections.abc import Sequence
from datetime import UTC, datetime

from tests.real_pc.disk import NotHere
from tests.real_pc.entries import STARTING
from tests.real_pc.install import bench_pc
from tests.real_pc.pc import RealPc
from tests.real_pc.use import RECORDINGS, ledger_command, wait_until_known

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.replay.cost import RoundReplay
from plucky_ledger.core.statistics.comparison import BootPoint, estimate
from plucky_ledger.core.statistics.student import student_t
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.exchange.boots import RecordedBoot, boot_from_bytes

ROUNDS = int(sys.argv[1]) if len(sys.argv) > 1 else 4
REST_SECONDS = 30.0
MEASURES = (Measure.SETTLED, Measure.SYSTEM_UP)
SWITCH = """
import sys
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.control_of_this_pc import ControlOfThisPc
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import EntryRequest
control = ControlOfThisPc()
control.put_back(RevertSelection())
if sys.argv[1:]:
    wish = EntryRequest(sys.argv[1], sys.argv[1], EntryState.OFF)
    control.switch(SwitchRequest("bench", "0001", "bench", (wish,)))
"""


def main() -> None:
    states: list[str] = ["", *STARTING]
    boots: dict[str, list[RecordedBoot]] = {state: [] for state in states}
    try:
        with bench_pc("Costs PC") as (pc, job):
            for turn in range(ROUNDS):
                for state in states if turn % 2 == 0 else states[::-1]:
                    boots[state].append(boot(pc, job, state))
                    print(".", end="", flush=True)
    except NotHere as reason:
        print(f"no real PC here: {reason}")
    else:
        report(boots)


def boot(pc: RealPc, job: str, off: str) -> RecordedBoot:
    user = off.endswith(".desktop") or off.startswith("user:")
    pc.path("/root/switch.py").write_text(SWITCH)
    shutil.copy(pc.path("/root/switch.py"), pc.path("/home/bench/switch.py"))
    # The user first: putting back as the user puts the system back as well.
    for as_user in (True, False):
        path = "/home/bench/switch.py" if as_user else "/root/switch.py"
        wanted = (off,) if off and user is as_user else ()
        pc.run("/opt/plucky/bin/python", path, *wanted, user=as_user)
    ledger_command(pc, "arm", job, "--system", "--boots", "1")
    pc.switch_off()
    pc.switch_on(None)
    pc.wait_until_up()
    wait_until_known(pc, frozenset(STARTING) - {off})
    pc.run("sleep", str(REST_SECONDS))
    pc.run("systemctl", "stop", "plucky-ledger-recorder.service")
    (path,) = pc.path(RECORDINGS).glob("*/*.gz")
    found = boot_from_bytes(path.read_bytes())
    path.unlink()
    return found


def report(boots: dict[str, list[RecordedBoot]]) -> None:
    every = sorted((b for side in boots.values() for b in side), key=lambda b: b.boot.started_at)
    order = {id(found): float(place) for place, found in enumerate(every)}
    replay = RoundReplay([Analysis(found.boot, found.timeline) for found in boots[""]])
    costs = {cost.entry_id: cost for cost in replay.cost_of(list(STARTING))}
    assert replay._whole is not None
    print()
    for found, whole in zip(boots[""], replay._whole, strict=False):
        readings = found.boot.readings
        print(
            f"everything on: settled {readings[Measure.SETTLED].value:.2f} s (replayed"
            f" {whole.settled:.2f}), up {readings[Measure.SYSTEM_UP].value:.2f} s"
            f" ({whole.system_up:.2f})"
        )
    held = asked = 0
    for name in STARTING:
        for measure in MEASURES:
            expected = costs[name].settled if measure is Measure.SETTLED else costs[name].system_up
            won = measured(measure, boots[name], boots[""], order)
            covers = expected is not None and expected.low <= won.value <= expected.high
            both = expected is not None and expected.low <= won.high and won.low <= expected.high
            held, asked = held + both, asked + 1
            print(
                f"{name:>28} {measure:>10}: expected {told(expected)}, won {told(won)}"
                f"{'' if covers else '  beside it' if both else '  APART'}"
            )
    print(f"{held} of {asked} agree within their intervals")


def measured(
    measure: Measure,
    without: Sequence[RecordedBoot],
    whole: Sequence[RecordedBoot],
    order: dict[int, float],
) -> Estimate:
    """What being without it wins, by the product's own comparison of boots in turns."""
    sides = [
        [BootPoint(b.boot.readings[measure].value, order[id(b)]) for b in side]
        for side in (without, whole)
    ]
    found = estimate(measure, (sides[0], sides[1]))
    assert found is not None
    half = student_t(found.degrees) * found.error
    return Estimate(found.shift, found.shift - half, found.shift + half)


def told(figure: Estimate | None) -> str:
    return (
        "nothing"
        if figure is None
        else f"{figure.value:.1f} ({figure.low:.1f} to {figure.high:.1f})"
    )


if __name__ == "__main__":
    print(datetime.now(UTC).isoformat(timespec="seconds"))
    sys.exit(main())
