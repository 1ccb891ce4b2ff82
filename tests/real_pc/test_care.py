"""A PC in care, on a real one: one boot in two, the newest kept, copies handed on, and no trace."""

import time

import pytest

from plucky_ledger.usecases.recording.sticks import STILL_COPIED_SECONDS
from tests.real_pc.test_levels import TRACES
from tests.real_pc.use import ledger_command, recordings, switched_on, wait_until_known

DROP = "/home/bench/drop"


@pytest.mark.long
def test_it_records_one_boot_in_two_and_ends_without_a_trace(real_pc):
    switched_on(real_pc)
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "PC in care").strip()
    real_pc.run("runuser", "-u", "bench", "--", "mkdir", DROP)
    options = ("--every", "2", "--keep", "1", "--hand-to", DROP, "--level", "user")
    told = ledger_command(real_pc, "care", job, *options)
    assert "one boot in 2 is recorded" in told
    handed, kept = [], []
    for boot in range(5):
        real_pc.tried("systemctl", "reboot")
        real_pc.wait_until_off()
        handed.append(len(list(real_pc.path(DROP).glob("*/*.gz"))))
        kept.append(len(recordings(real_pc)))
        real_pc.switch_on(None)
        real_pc.wait_until_up()
        if boot % 2 == 0:
            wait_until_known(real_pc)
    assert handed == [0, 1, 1, 2, 2]
    assert kept == [0, 1, 1, 1, 1]
    time.sleep(STILL_COPIED_SECONDS)
    ledger_command(real_pc, "import", "--drop", DROP)  # as a workshop's timer does
    assert "2 boots" in ledger_command(real_pc, "book", job)
    ledger_command(real_pc, "care", job, "--report")
    ledger_command(real_pc, "care", job, "--end")
    real_pc.switch_off()
    assert not [trace for trace in TRACES if real_pc.path(trace).exists()]
