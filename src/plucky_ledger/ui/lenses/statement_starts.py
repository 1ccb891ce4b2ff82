"""Two starts of the PC as pictures for the statement: how it started at first, and now."""

from dataclasses import replace

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.lane_order import LaneOrder, folded, ordered
from plucky_ledger.pages.lanes import LanesPage, lane_facts, lanes_page, typical_boot
from plucky_ledger.pages.statement import first_measured
from plucky_ledger.ui.lenses.lanes_layout import drawn, picture
from plucky_ledger.ui.theme import on_paper
from plucky_ledger.usecases.jobs.workshop import Workshop
from plucky_ledger.usecases.reading.statements import StartPicture
from plucky_ledger.usecases.reading.voices import boot_voices
from plucky_ledger.wording.statement import start_title

MOST_LANES = 12
"""As many as stand beside each other on a page; those that cost most come first."""
SHEET_WIDTH = 880


def two_starts(shop: Workshop, job: Job, measure: Measure) -> tuple[StartPicture, ...]:
    """A typical start of the first round and one of the newest, on one scale of time.

    Starts without samples have no lanes and are left out. Takes a moment.
    """
    rounds = (first_measured(job), next((r for r in reversed(job.rounds) if r), ()))
    typical = [typical_boot(boots, measure) for boots in rounds]
    boots = list({boot.uuid: boot for boot in typical if boot is not None}.values())
    pages = [_page(shop, job, boot, rounds[at]) for at, boot in enumerate(boots)]
    shown = [(boot, page) for boot, page in zip(boots, pages, strict=True) if page.lanes]
    if not shown:
        return ()
    view = (min(page.start for _, page in shown), max(page.end for _, page in shown))
    scale = drawn(shown[0][1])
    with on_paper():
        return tuple(
            StartPicture(
                title := start_title(boot, is_first=at == 0),
                picture(drawn(page, scale), None, view, title, ".svg", SHEET_WIDTH).decode(),
            )
            for at, (boot, page) in enumerate(shown)
        )


def _page(shop: Workshop, job: Job, boot: Boot, boots: tuple[Boot, ...]) -> LanesPage:
    analysis = shop.analyses.of(shop.ledger, job.number, boot)
    facts = lane_facts(shop.ledger, job, boots, shop.costs)
    page = lanes_page(analysis, boot_voices(analysis), facts)
    page = folded(ordered(page, LaneOrder.COST))
    return replace(page, lanes=page.lanes[:MOST_LANES])
