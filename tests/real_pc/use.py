"""What several tests do with the real PC."""

import time

import pytest

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.recording.reader import RecordingFault
from tests.real_pc.entries import STARTING

MARKS = {
    Mark.KERNEL_STARTED,
    Mark.SYSTEM_UP,
    Mark.SIGN_IN_SHOWN,
    Mark.SIGNED_IN,
    Mark.DESKTOP_SHOWN,
}
KNOWN_WITHIN_SECONDS = 300.0

SHARE = "/home/bench/.local/share/plucky-ledger"
RECORDINGS = f"{SHARE}/recordings"


def switched_on(pc):
    """On, and everything started."""
    if not pc.is_on:
        pc.switch_on()
    pc.wait_until_up()


def ledger_command(pc, *arguments):
    """What one of our commands prints, run by the user who signed in."""
    return pc.run("plucky-ledger", *arguments, user=True)


def recordings(pc):
    return list(pc.path(RECORDINGS).glob("*/*.gz"))


EVERY_SOURCE = frozenset(StartSource) - {StartSource.UNKNOWN, StartSource.INIT_SCRIPTS}


def wait_until_known(pc, starting=frozenset(STARTING)):
    """Until what the managers and the files tell is in the recording, which goes on."""
    deadline = time.monotonic() + KNOWN_WITHIN_SECONDS
    while time.monotonic() < deadline:
        for path in recordings(pc):
            try:
                recorded = boot_from_bytes(path.read_bytes())
            except RecordingFault:
                continue
            did = {activity.entry_id for activity in recorded.timeline.activities}
            looked = {one.source for one in recorded.timeline.sources} >= EVERY_SOURCE
            marked = set(recorded.boot.marks) >= MARKS - {Mark.KERNEL_STARTED}
            if marked and looked and did >= starting:
                return
        time.sleep(1.0)
    pytest.fail("the recording never knew what the managers know")


def restart_armed(pc, job, starting=frozenset(STARTING)):
    """The next boot, recorded and finished."""
    ledger_command(pc, "arm", job, "--boots", "1")
    pc.tried("systemctl", "reboot")
    pc.wait_until_off()
    switched_on(pc)
    wait_until_known(pc, starting)
    pc.run("systemctl", "stop", "plucky-ledger-recorder.service")
