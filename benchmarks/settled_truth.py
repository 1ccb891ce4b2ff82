"""Is settled right? Against the stand-in PC's own truth, over 200 seeded boots of varied PCs.

For each family: how many boots were found within a second of the truth, the median error, and how
many were censored. A PC that never settles has to be censored, not given a figure. Then the size of
the recordings and the share of CPU work that program runs explain.
"""

import statistics
import tempfile
from datetime import UTC, datetime
from pathlib import Path

from tests.made_up_pcs.families import Family, made_up_pc

from goals import measured, often
from plucky_ledger.capture.sampling.recorder import ADAPTIVE, record
from plucky_ledger.core.boots.attribution import attribute
from plucky_ledger.core.boots.readings import settled_of
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup

PER_FAMILY = often(40, 2)
SECONDS = 260.0


def main() -> None:
    print(f"settled against the truth, {PER_FAMILY} boots a family")
    right = boots = 0
    sizes, shares, disk_shares, by_family = [], [], [], []
    with tempfile.TemporaryDirectory() as folder:
        for family in Family:
            errors, censored = [], 0
            for seed in range(PER_FAMILY):
                path = Path(folder) / f"{family}-{seed}.jsonl.gz"
                boot = made_up_pc(family, seed).restart(Setup(), seed, datetime.now(UTC))
                with RecordingWriter(path) as writer:
                    record(boot, boot, writer, SECONDS, ADAPTIVE)
                recorded = boot_from_bytes(path.read_bytes())
                sizes.append(path.stat().st_size)
                timeline = recorded.timeline
                cpu, disk = attribute(timeline).explained_share(SECONDS)
                shares.append(cpu)
                disk_shares.append(disk)
                settled = settled_of(recorded.boot.marks, timeline.samples)
                if settled.censored:
                    censored += 1
                else:
                    errors.append(abs(settled.seconds - boot.run.machine.last_startup_work))
            never = family is Family.NEVER_SETTLES
            within = censored if never else sum(error <= 1.0 for error in errors)
            right, boots = right + within, boots + PER_FAMILY
            by_family.append((within / PER_FAMILY, str(family)))
            median = f"{statistics.median(errors):.2f} s" if errors else "none"
            print(
                f"  {family:>24}: {within}/{PER_FAMILY} right, median error {median}, "
                f"{censored} censored"
            )
    least, worst = min(by_family)
    measured(
        "settled within 1 s of the truth, share of boots",
        right / boots,
        0.95,
        "{:.1%}",
        f"{worst} {least:.0%}",
        least=True,
    )
    size, largest = statistics.median(sizes) / 1e3, max(sizes) / 1e3
    measured(f"kB of a recording of {SECONDS:.0f} s", size, 400, "{:.0f}", f"{largest:.0f}")
    for what, of in (("CPU work", shares), ("disk reads", disk_shares)):
        share = f"{what} explained by program runs"
        measured(share, statistics.median(of), 0.98, "{:.1%}", f"{min(of):.1%}", least=True)


if __name__ == "__main__":
    main()
