"""A whole job on the stand-in PC, through the same use cases as a real one."""

import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.hints import is_guarded
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.job.noticed import ENTRY, reappeared_entries
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.exchange.facts import facts_from
from plucky_ledger.standin.simulated_pc import PCS, RECORD_SECONDS
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.changing import putting_back, switching
from plucky_ledger.usecases.changing.decisions import decide
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import CostsKept
from plucky_ledger.usecases.reading.entries import entries_known
from plucky_ledger.usecases.reading.hints import hints_about
from plucky_ledger.usecases.recording.boots import import_recording
from plucky_ledger.usecases.recording.stand_ins import stand_in_of

PC = "ticket-desk"
BOOTS = 3
SWITCHED_OFF = 5
"""How many of the costliest sign-in programs are switched off."""
AT_ONCE = 1e9

Progress = Callable[[int, int], bool]
"""Told how many rounds are done and how many there are; False stops."""
ROUNDS = 5


class _Stopped(Exception):
    """The user ended it."""


class Play:
    """One job, step by step, through the same use cases as on a real PC."""

    def __init__(self, ledger: Ledger, progress: Progress) -> None:
        self._ledger, self._progress = ledger, progress
        self._costs = CostsKept(Analyses())
        self._rounds = 0
        facts = facts_from(PCS[PC].facts)
        which = WhichPc(PcKind.STAND_IN, PC)
        self.number = take_in(ledger, Card("", "Ticket-desk PC"), facts, which)

    def through(self) -> bool:
        """Play it to its end; False when stopped."""
        try:
            self._record()
            self._decide()
            self._post()
            self._record()  # one of them switches itself on again after the first boot
            self._switch_off_for_good()
            self._post()
            self._record()
            self._put_back_one()
            self._record()
            putting_back.put_back(self._ledger, self.number, None, why="the end of the play")
            self._record()
        except _Stopped:
            return False
        return True

    def _record(self) -> None:
        """A round of boots."""
        with tempfile.TemporaryDirectory() as folder:
            for boot in range(BOOTS):
                if not self._progress(self._rounds * BOOTS + boot, ROUNDS * BOOTS):
                    raise _Stopped
                path = Path(folder) / f"boot-{boot}.jsonl.gz"
                pc = replace(stand_in_of(read_job(self._ledger, self.number)), speed=AT_ONCE)
                pc.record(path, RECORD_SECONDS, lambda _lines: None, lambda: True)
                import_recording(self._ledger, self.number, path, pc.which)
        self._rounds += 1

    def _decide(self) -> None:
        """The costliest sign-in programs off that nobody has to think about twice."""
        entries = entries_known(self._ledger, self.number)
        hints = hints_about(entries)
        opening = read_job(self._ledger, self.number).opening_boots
        costs = self._costs.of(self._ledger, self.number, opening).costs
        seconds = {entry_id: cost.settled.value for entry_id, cost in costs.items() if cost.settled}
        easy = (
            entry
            for entry in entries
            if entry.kind is EntryKind.SIGN_IN_PROGRAM
            and not is_guarded(entry, hints.get(entry.entry_id, ()))
        )
        costliest = sorted(easy, key=lambda entry: -seconds.get(entry.entry_id, 0.0))
        own = [e for e in entries if e.entry_id in PCS[PC].comes_back]
        chosen = list({e.entry_id: e for e in (*costliest[:SWITCHED_OFF], *own)}.values())
        decide(self._ledger, self.number, chosen, Decision.OFF, "costs more than it brings")

    def _post(self) -> None:
        plan = self._costs.expected(self._ledger, self.number)
        made = switching.switch_pencilled(self._ledger, self.number)
        switching.post(self._ledger, self.number, made, plan)

    def _switch_off_for_good(self) -> None:
        """What came back although it was switched off."""
        back = {
            reason.facts[ENTRY]
            for reason in reappeared_entries(read_job(self._ledger, self.number))
        }
        entries = [e for e in entries_known(self._ledger, self.number) if e.entry_id in back]
        decide(
            self._ledger,
            self.number,
            entries,
            Decision.OFF,
            "it came back by itself",
            state=EntryState.OFF_FOR_GOOD,
        )

    def _put_back_one(self) -> None:
        """The owner misses one of them."""
        first = read_job(self._ledger, self.number).postings[0]
        missed = next(c.entry_id for c in first.changes if c.entry_id not in PCS[PC].comes_back)
        why = "the owner misses it"
        putting_back.put_back(self._ledger, self.number, first.number, (missed,), why)
