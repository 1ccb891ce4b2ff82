"""Figures of boots that are in the ledger, worked out anew from their marks and recordings."""

import logging
from collections.abc import Collection
from dataclasses import replace

from sqlalchemy.orm import Session

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import METHOD, Boot, How
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.boots.worked import with_figures
from plucky_ledger.exchange.timelines import timeline_from_bytes
from plucky_ledger.recording.reader import RecordingFault
from plucky_ledger.store.boots import recording_of, write_boot
from plucky_ledger.store.decisions import asides
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.spines import keep_spine

log = logging.getLogger(__name__)


def worked_out(session: Session, boot: Boot, aside: Collection[str]) -> Boot:
    """A boot of the ledger with its figures by today's method, without the programs set aside.

    What was typed in stays as it is, and so does a boot whose recording can no longer be read.
    """
    data = recording_of(session, boot.number)
    if boot.how is How.TYPED and data is None:
        return replace(boot, method=METHOD)
    try:
        timeline = timeline_from_bytes(data) if data is not None else Timeline()
    except RecordingFault as fault:
        log.warning("boot %d keeps its figures: %s", boot.number, fault)
        return replace(boot, method=METHOD)
    return replace(with_figures(Analysis(boot, timeline, frozenset(aside))), method=METHOD)


def bring_figures_up_to_date(ledger: Ledger, number: int) -> int:
    """Work out a job's figures anew where an older method made them; returns of how many boots.

    It is nobody's step, and is not undone.
    """
    assert ledger.may_write(), "figures are written beside the writer"
    with ledger.writing(number) as session:
        aside = asides(session, number)
        older = [boot for boot in read_job(session, number).boots if boot.method < METHOD]
        for boot in older:
            write_boot(session, worked_out(session, boot, aside))
        keep_spine(session, number)
    log.info("figures of %d boots of job %d by method %d", len(older), number, METHOD)
    return len(older)
