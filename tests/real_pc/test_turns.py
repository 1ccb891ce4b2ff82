"""Boots in turns on a real PC, by commands: switched, restarted, interrupted, booked to a state."""

import pytest

from tests.helpers.answers import answered
from tests.real_pc.entries import STARTING
from tests.real_pc.use import ledger_command, restart_armed, switched_on

OFF = "brassbell-notifier.desktop"


@pytest.mark.long
def test_turns_go_to_and_fro_and_each_boot_is_booked_to_its_state(real_pc):
    everything, without = frozenset(STARTING), frozenset(STARTING) - {OFF}
    switched_on(real_pc)
    job = ledger_command(real_pc, "take-in", "--this-pc", "--new", "Turns PC").strip()
    restart_armed(real_pc, job, everything)
    ledger_command(real_pc, "pick-up", job)
    ledger_command(real_pc, "decide", job, OFF, "off")
    ledger_command(real_pc, "post", job)
    restart_armed(real_pc, job, without)
    ledger_command(real_pc, "pick-up", job)
    begun = ledger_command(real_pc, "turns", job, "--line", "1")
    assert "6 boots are to be taken in turns" in begun
    for starting, left in ((without, 6), (everything, 5), (everything, 4)):
        # Interrupted before the restart and gone on with by the same command: nothing twice.
        assert f"{left} are left" in ledger_command(real_pc, "turns", job)
        assert f"{left} are left" in ledger_command(real_pc, "turns", job)
        restart_armed(real_pc, job, starting)
        ledger_command(real_pc, "pick-up", job)
    book = answered(ledger_command(real_pc, "book", job, "--json"))
    assert [row["boots"]["starts"] for row in book["rows"]] == [1, 2, 2]
    assert [row["repeats"] for row in book["rows"]] == [False, False, True]
    assert book["saved_units"] == book["lost_units"] == 0
    ledger_command(real_pc, "turns", job, "--end")
    assert "0 left" not in ledger_command(real_pc, "effects", job)
