"""The log of a real PC: not for everybody's eyes, and read through the administrator."""

import pytest

from tests.real_pc.use import ledger_command, switched_on

pytestmark = pytest.mark.usefixtures("at_ease")


def test_past_boots_are_read_through_the_administrator(real_pc):
    switched_on(real_pc)
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "Quay PC").strip()
    refused = real_pc.tried("plucky-ledger", "past-boots", job, user=True)
    assert refused.returncode == 1
    assert "The administrator may read it" in refused.stderr
    told = ledger_command(real_pc, "past-boots", job, "--administrator")
    assert "read back from the log" in told
    assert not told.startswith("0 ")
    book = ledger_command(real_pc, "book", job, "--in", "system_up")
    assert "no figure yet" not in book
