"""Later is not never, on a real PC: an entry that starts later is seen at work after settled."""

import io
import time

import pytest

from plucky_ledger.recording.reader import RecordingFault, read_recording
from tests.real_pc.use import ledger_command, recordings, switched_on

ENTRY = "brassbell-notifier.desktop"
RECORDED_WITHIN_SECONDS = 330.0
LATER_WORK_BY_SECONDS = 260.0
"""Uptime by which what starts later has worked."""
MOST_OF_A_CORE = 0.001
LOOKED_LONG_ENOUGH_SECONDS = 60.0


@pytest.mark.long
def test_what_starts_later_is_told_as_only_moved(real_pc):
    """The boot is in the book long before, a shutdown ends the look, and the rest comes then."""
    switched_on(real_pc)
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "Later PC").strip()
    recorded_until_settled(real_pc, job)
    real_pc.run("systemctl", "stop", "plucky-ledger-recorder.service")
    ledger_command(real_pc, "pick-up", job)
    assert not recordings(real_pc)
    ledger_command(real_pc, "decide", job, ENTRY, "later")
    assert "1 entry is switched" in ledger_command(real_pc, "post", job)
    recorded_until_settled(real_pc, job)
    assert len(recordings(real_pc)) == 1, "its recorder looks on"
    while uptime(real_pc) < LATER_WORK_BY_SECONDS:
        time.sleep(10.0)
    real_pc.tried("systemctl", "poweroff")
    real_pc.wait_until_off()
    (path,) = recordings(real_pc)
    look = read_recording(io.BytesIO(path.read_bytes())).later
    assert look.end is not None, "the shutdown ended it, whole"
    first, last = look.samples[0], look.samples[-1]
    looked = last.seconds - first.seconds
    assert looked > LOOKED_LONG_ENOUGH_SECONDS
    own = last.own_cpu_seconds - first.own_cpu_seconds
    assert own / looked < MOST_OF_A_CORE
    switched_on(real_pc)
    assert "minutes after settled" in ledger_command(real_pc, "pick-up", job)
    assert not recordings(real_pc)
    told = ledger_command(real_pc, "compare", job)
    assert "Only moved: " in told
    assert "after sign-in" in told
    ledger_command(real_pc, "put-back", job, "--everything")


def recorded_until_settled(pc, job):
    """Armed, restarted, and in the book as soon as it has settled."""
    ledger_command(pc, "arm", job, "--boots", "1", "--system")
    pc.switch_off()
    switched_on(pc)
    deadline = time.monotonic() + RECORDED_WITHIN_SECONDS
    while not any(map(has_ended, recordings(pc))):
        assert time.monotonic() < deadline
        time.sleep(1.0)  # and nothing is asked of the PC, which could not come to rest then
    assert "is in the book" in ledger_command(pc, "pick-up", job)


def has_ended(path):
    """Whether the recording itself is whole; a slow look may follow."""
    try:
        recording = read_recording(io.BytesIO(path.read_bytes()))
    except RecordingFault:
        return False  # it has only just been begun
    return recording.end is not None


def uptime(pc):
    return float(pc.run("cat", "/proc/uptime").split()[0])
