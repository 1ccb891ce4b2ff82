"""A PC in care, on a real one: one boot in two, the newest kept, copies handed on, and no trace."""

import time

import pytest

from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.jobs.shelf import read_shelf
from plucky_ledger.usecases.recording.sticks import STILL_COPIED_SECONDS
from tests.helpers.server import Server, needs_server
from tests.real_pc.pc import OUR_PACKAGES
from tests.real_pc.test_levels import TRACES
from tests.real_pc.use import MARKS, ledger_command, recordings, switched_on, wait_until_known

DROP = "/home/bench/drop"
RECORDER = "plucky-ledger-recorder.service"
HANDED_WITHIN_SECONDS = 420.0


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


@pytest.mark.long
@needs_server
def test_the_administrators_recorder_hands_to_a_ledger_on_a_server_as_the_user(real_pc):
    """The server's socket lies on the PC's disk: it is reached there without a network."""
    switched_on(real_pc)
    (packages,) = real_pc.path("/opt/plucky/lib").glob("python3*/site-packages")
    (packages / "extras.pth").write_text(f"{OUR_PACKAGES}\n")  # with what a server takes
    server = Server(real_pc.path("/srv/workshop"))
    server.folder.chmod(0o711)  # the user of the PC has to reach its socket
    try:
        there = server.ledger()
        address = there.text.replace(str(server.folder), "/srv/workshop")
        job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "PC in care").strip()
        options = ("--every", "1", "--hand-to", address, "--level", "system")
        told = ledger_command(real_pc, "care", job, *options)
        assert f"They go into the ledger at {address}" in told
        real_pc.tried("systemctl", "reboot")
        real_pc.wait_until_off()
        switched_on(real_pc)
        with Ledger(there) as ledger:
            deadline = time.monotonic() + HANDED_WITHIN_SECONDS
            while not (shelf := read_shelf(ledger)) and time.monotonic() < deadline:
                time.sleep(2.0)
            assert shelf, real_pc.run("journalctl", "-b", "-u", RECORDER, "--no-pager")
            (spine,) = shelf
            (boot,) = read_job(ledger, spine.job).boots
        assert set(boot.marks) >= MARKS
        ledger_command(real_pc, "care", job, "--end")
    finally:
        server.kill()  # another test run may have closed the way to its folder by now
        (packages / "extras.pth").unlink()
    real_pc.switch_off()
    assert not [trace for trace in TRACES if real_pc.path(trace).exists()]
