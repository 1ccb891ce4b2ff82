"""Cache of boot analyses: a recording is read and analysed once for all views."""

import threading

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.values.recent import Recent
from plucky_ledger.exchange.timelines import timeline_from_bytes
from plucky_ledger.store.boots import recording_of
from plucky_ledger.store.decisions import asides
from plucky_ledger.store.ledger import Ledger

KEPT = 16
"""Boots kept at once: a round with those laid behind it."""


class Analyses:
    """Analyses of the boots looked at last. May be asked from several threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._timelines: Recent[str, Timeline] = Recent(KEPT)
        """By the boot's name, which no other boot will ever have."""
        self._analyses: Recent[str, Analysis] = Recent(KEPT)

    def of(self, ledger: Ledger, number: int, boot: Boot) -> Analysis:
        """The analysis of a job's boot, with the programs set aside in that job."""
        with self._lock:
            with ledger.session() as session:
                aside = frozenset(asides(session, number))
                cached = self._analyses.get(boot.uuid)
                if cached is not None and (cached.boot, cached.aside) == (boot, aside):
                    return cached
                timeline = self._timelines.get(boot.uuid)
                if timeline is None:
                    data = recording_of(session, boot.number)
                    timeline = timeline_from_bytes(data) if data is not None else Timeline()
                    self._timelines.keep(boot.uuid, timeline)
            return self._analyses.keep(boot.uuid, Analysis(boot, timeline, aside))
