"""A night shift on a real PC: unattended boots, two cut by a kill, and everything as it was."""

import os
import sys
import time
from pathlib import Path

import pytest

from plucky_ledger.linux.folders import Folders
from plucky_ledger.night.plan_file import last_night
from tests.helpers.answers import answered
from tests.real_pc.entries import STARTING
from tests.real_pc.test_control import everything
from tests.real_pc.use import ledger_command, restart_armed, switched_on

BOOTS = int(os.environ.get("PLUCKY_LEDGER_NIGHT_BOOTS", "24"))
KILLED = {2, 5}
"""Boots of the night that are ended by a power cut."""
ENTRIES = (
    "harbour-import.service",
    "foghorn-calibrate.service",
    "user:ticketdesk-cache.service",
    "brassbell-notifier.desktop",
)
LONGEST_BOOT_SECONDS = 420.0


def plan_of(pc):
    """The night that goes on, or the last, as it lies on the PC's disk."""
    return last_night(Folders(Path(), (), administrators=pc.path("/var/lib/plucky-ledger")))


@pytest.mark.long
def test_a_night_measures_what_entries_cost_and_leaves_no_trace(real_pc):
    switched_on(real_pc)
    before = everything(real_pc)
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "Night PC").strip()
    restart_armed(real_pc, job, frozenset(STARTING))
    ledger_command(real_pc, "pick-up", job)
    chosen = [word for entry in ENTRIES for word in ("--entry", entry)]
    told = ledger_command(real_pc, "night-shift", job, "--boots", str(BOOTS), *chosen)
    assert f"restarts itself {BOOTS} times" in told
    real_pc.tried("systemctl", "reboot")
    real_pc.wait_until_off()
    starts = 0
    while not plan_of(real_pc).restored:
        real_pc.switch_on()
        starts += 1
        if starts in KILLED:
            real_pc.wait_until_up()
            time.sleep(4.0)
            real_pc.cut_power()
            continue
        wait_until_off_or_over(real_pc)
    plan = plan_of(real_pc)
    cut = sum(booted.cut for booted in plan.boots)
    assert cut == len(KILLED)
    assert plan.unrecorded == 0
    if plan.ended == "night_exact_enough":
        assert len(plan.boots) - cut >= 2 * len(ENTRIES) + 4
    else:
        assert plan.ended == "night_through"
        assert len(plan.boots) == BOOTS + cut
    assert_as_it_began(real_pc, before)
    ledger_command(real_pc, "pick-up", job)
    book = answered(ledger_command(real_pc, "book", job, "--in", "system_up", "--json"))
    recorded = sum(row["boots"]["starts"] for row in book["rows"])
    assert recorded >= 1 + len(plan.boots) - cut
    told = ledger_command(real_pc, "effects", job, "--in", "system_up")
    sys.stdout.write(f"{plan.ended} {len(plan.boots)} {told}\n")
    assert "not told apart" not in told


def assert_as_it_began(pc, before):
    """Every byte, and nothing left of the night but journals, report, log and ledger."""
    assert plan_of(pc).left == ()
    assert everything(pc) == before
    left = {path.name for path in pc.path("/var/lib/plucky-ledger").iterdir()}
    assert left == {"changes"}
    assert not pc.path("/run/issue.d/plucky-ledger.issue").exists()


def wait_until_off_or_over(pc):
    deadline = time.monotonic() + LONGEST_BOOT_SECONDS
    while pc.is_on and not plan_of(pc).restored:
        assert time.monotonic() < deadline, pc.tried("journalctl", "-b", "-n", "40").stdout
        time.sleep(1.0)
    if not pc.is_on:
        pc.wait_until_off()
