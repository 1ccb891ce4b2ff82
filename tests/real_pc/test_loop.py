"""The whole job on a real PC, by commands: record, decide, post, restart, record, put back."""

import pytest

from tests.helpers.answers import answered
from tests.real_pc.entries import STARTING
from tests.real_pc.test_control import everything
from tests.real_pc.use import ledger_command, recordings, switched_on, wait_until_known

OFF = "harbour-import.service"
AGAIN = "/etc/systemd/system/cache-again.service"
AGAIN_WANTED = "/etc/systemd/system/sysinit.target.wants/cache-again.service"
LINK = "/home/bench/.config/systemd/user/default.target.wants/ticketdesk-cache.service"
PUTS_IT_BACK = f"""[Unit]
Description=A program that will not stay off
DefaultDependencies=no
Before=sysinit.target
[Service]
Type=oneshot
ExecStart=/bin/rm -f {LINK}
"""


@pytest.mark.long
def test_decide_post_restart_record_put_back(real_pc):
    switched_on(real_pc)
    before = everything(real_pc)
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "Loop PC").strip()
    recorded_boot(real_pc, job)
    for entry, decision, *how in (
        (OFF, "off", "--how", "off_for_good"),
        ("brassbell-notifier.desktop", "later"),
        ("user:ticketdesk-cache.service", "off"),
    ):
        ledger_command(real_pc, "decide", job, entry, decision, *how)
    assert "3 entries are switched" in ledger_command(real_pc, "post", job)
    refused = real_pc.tried("plucky-ledger", "undo", job, user=True)
    assert "Put the posting back instead" in refused.stderr
    real_pc.path(AGAIN).write_text(PUTS_IT_BACK)
    real_pc.path(AGAIN_WANTED).symlink_to(AGAIN)
    recorded_boot(real_pc, job, starting=set(STARTING) - {OFF})
    book = ledger_command(real_pc, "book", job)
    assert "1 entry was switched off and started all the same" in book
    for path in (AGAIN, AGAIN_WANTED):
        real_pc.path(path).unlink()
    (shown,) = answered(ledger_command(real_pc, "compare", job, "--in", "system_up", "--json"))[1:2]
    up = next(row for row in shown["rows"] if row["measure"] == "system_up")
    shift = up["shift"]  # in tenths: what is off computes for four seconds, alone on the chain
    assert shift["after"]["units"] < shift["before"]["units"] - 20
    changes = answered(ledger_command(real_pc, "changes", "--json"))
    assert len(changes[-1]["entries"]) == 3
    told = ledger_command(real_pc, "stop-now", job, "lanternprint-agent.service")
    assert "9 processes ended" in told
    assert "has not restarted by itself" in told
    refused = real_pc.tried("plucky-ledger", "stop-now", job, "systemd-logind.service", user=True)
    assert "is guarded" in refused.stderr
    told = ledger_command(real_pc, "put-back", job, "--line", "1", "--entry", OFF)
    assert "by hand" not in told
    ledger_command(real_pc, "put-back", job, "--everything")
    assert set(everything(real_pc)) ^ set(before) == set()
    book = ledger_command(real_pc, "book", job, "--in", "system_up")
    assert book.count("put back") + book.count("Put back") >= 2
    assert "There was nothing to put back" in ledger_command(real_pc, "put-back", "--everything")


def recorded_boot(pc, job, starting=frozenset(STARTING)):
    """Armed, restarted, and in the book."""
    ledger_command(pc, "arm", job, "--boots", "1", "--system")
    pc.switch_off()
    switched_on(pc)
    wait_until_known(pc, starting)
    pc.run("systemctl", "stop", "plucky-ledger-recorder.service")
    ledger_command(pc, "pick-up", job)
    assert not recordings(pc)
