"""What a real PC tells of its own state, and the rules held against it."""

import json

from tests.real_pc.use import ledger_command, switched_on

RECORDING = "/home/bench/why.jsonl"


def test_a_real_pc_tells_what_state_it_is_in(real_pc):
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
    found = json.loads(ledger_command(real_pc, "why", job, "--json"))
    assert found["boots"] == 1
    assert {finding["rule"] for finding in found["findings"]} <= {"many_failed", "little_room"}
    by_root = json.loads(real_pc.run("/opt/plucky/bin/plucky-ledger", "administer", "inspect"))
    assert by_root["swap_total_bytes"] == told[-1]["swap_total_bytes"]
    samples = [line for line in lines if line["kind"] == "sample"]
    for counted in ("disk_requests", "disk_answer_seconds", "memory_pressure_seconds"):
        assert samples[-1][counted] >= samples[0][counted] >= 0
    room = json.loads(ledger_command(real_pc, "room", job, "--json"))
    assert room["whole"]
    assert room["files"] > 1_000
    assert any(heap["kind"] == "system" for heap in room["heaps"])
