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

from plucky_ledger.capture.sampling.recorder import ADAPTIVE, record
from plucky_ledger.core.boots.attribution import attribute
from plucky_ledger.core.boots.readings import settled_of
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup

PER_FAMILY = 40
SECONDS = 260.0


def main() -> None:
    print(f"settled against the truth, {PER_FAMILY} boots a family")
    right = boots = 0
    sizes, shares, disk_shares = [], [], []
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
            median = f"{statistics.median(errors):.2f} s" if errors else "none"
            print(
                f"  {family:>24}: {within}/{PER_FAMILY} right, median error {median}, "
                f"{censored} censored"
            )
    print(f"  all: {right / boots:.1%} right (goal 95 %)")
    print(
        f"recording of {SECONDS:.0f} s: median {statistics.median(sizes) / 1e3:.0f} kB, largest "
        f"{max(sizes) / 1e3:.0f} kB (goal under 400 for 180 s)"
    )
    print(
        f"CPU work explained by program runs: median {statistics.median(shares):.1%}, least "
        f"{min(shares):.1%} (goal ≥ 98 %)"
    )
    print(
        f"disk reads explained: median {statistics.median(disk_shares):.1%}, least "
        f"{min(disk_shares):.1%} (goal ≥ 98 %)"
    )


if __name__ == "__main__":
    main()
