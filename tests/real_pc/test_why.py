"""What a real PC tells of its own state, and the rules held against it."""

import json

import pytest

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.exchange.boots import boot_from_bytes
from tests.helpers.answers import answered
from tests.real_pc.use import ledger_command, switched_on

RECORDING = "/home/bench/why.jsonl"


def test_a_real_pc_tells_what_state_it_is_in(real_pc):
    real_pc.switch_off()  # begun long after the start it would be a reading at rest, and no boot
    switched_on(real_pc)
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "Quay PC").strip()
    ledger_command(real_pc, "record", "--for", "15", "--out", RECORDING)
    lines = [json.loads(line) for line in real_pc.path(RECORDING).read_text().splitlines()]
    told = [line for line in lines if line["kind"] == "condition"]
    assert told
    assert told[-1]["swap_total_bytes"] is not None
    assert told[-1]["killed_for_memory"] is not None
    assert told[-1]["reread_bytes"] is not None
    restarts = [line.get("restarts") for line in lines if line["kind"] == "activity"]
    assert any(count is not None for count in restarts)
    ledger_command(real_pc, "import", RECORDING, "--job", job)
    found = answered(ledger_command(real_pc, "why", job, "--json"))
    assert found["boots"] == 1
    # A boot that never settled while it was recorded, as on a busy host, cannot be replayed; on a
    # quiet one what it costs to start the made-up entries is told.
    of_the_pc = {"found"} if found["findings"] else {"fine", "entries_cost", "not_judged"}
    assert found["answer"] in of_the_pc
    by_root = json.loads(real_pc.run("plucky-ledger", "administer", "inspect"))
    assert by_root["swap_total_bytes"] == told[-1]["swap_total_bytes"]
    samples = [line for line in lines if line["kind"] == "sample"]
    for counted in ("disk_requests", "disk_answer_seconds", "memory_pressure_seconds"):
        assert samples[-1][counted] >= samples[0][counted] >= 0
    room = answered(ledger_command(real_pc, "room", job, "--json"))
    assert room["whole"]
    assert room["files"] > 1_000
    assert any(heap["kind"] == "system" for heap in room["heaps"])


VOLUME = """\
[Unit]
Description=vault
[Service]
Type=oneshot
RemainAfterExit=yes
ExecStart=/usr/bin/systemd-ask-password --timeout=120 vault
[Install]
WantedBy=multi-user.target
"""
PERSON = """\
[Service]
ExecStart=/bin/sh -c 'sleep 7; for asked in /run/systemd/ask-password/ask.*; do \\
    printf open | /usr/lib/systemd/systemd-reply-password 1 $(sed -n s/^Socket=//p $asked); done'
[Install]
WantedBy=multi-user.target
"""
UNITS = {"systemd-cryptsetup@vault.service": VOLUME, "person.service": PERSON}


def test_a_passphrase_is_waited_for_and_not_charged(real_pc):
    """The real manager and its real agents; the person who types is a service."""
    switched_on(real_pc)
    for name, text in UNITS.items():
        real_pc.path(f"/etc/systemd/system/{name}").write_text(text)
        real_pc.run("systemctl", "enable", name)
    try:
        real_pc.switch_off()
        switched_on(real_pc)
        ledger_command(real_pc, "record", "--for", "3", "--out", f"{RECORDING}.2")
        boot = boot_from_bytes(real_pc.path(f"{RECORDING}.2").read_bytes()).boot
        waited = boot.marks[Mark.PASSPHRASE_GIVEN] - boot.marks[Mark.PASSPHRASE_ASKED]
        assert 4 < waited < 20
        up = boot.readings[Measure.SYSTEM_UP].value
        assert up == pytest.approx(boot.marks[Mark.SYSTEM_UP] - waited, abs=0.2)
    finally:
        real_pc.tried("systemctl", "disable", *UNITS)
        for name in UNITS:
            real_pc.path(f"/etc/systemd/system/{name}").unlink()
        real_pc.switch_off()
