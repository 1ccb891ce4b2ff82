"""Figures of a job's boots that were read at the same moment of a boot."""

from dataclasses import replace

from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.values.measures import Measure, Reading

HELD = (Measure.MEMORY_HELD, Measure.PROCESSES)


def with_later_figures(job: Job) -> Job:
    """The job with what its boots held at the end of the slow look, in place of what they held when
    they had settled, where that is known of each boot in the account.
    """
    if not held_at_the_end(job):
        return job
    postings = tuple(
        replace(posting, boots=tuple(map(_at_the_end, posting.boots))) for posting in job.postings
    )
    opening = tuple(map(_at_the_end, job.opening_boots))
    return replace(job, opening_boots=opening, postings=postings)


def held_at_the_end(job: Job) -> bool:
    """Whether what is held is read at the end of the slow look, in all boots alike."""
    there = [boot for boot in job.boots if boot.counts and set(HELD) & boot.readings.keys()]
    return bool(there) and all(
        boot.how is How.RECORDED and boot.context.held_later for boot in there
    )


def _at_the_end(boot: Boot) -> Boot:
    held = {measure: Reading(value) for measure, value in boot.context.held_later.items()}
    return replace(boot, readings={**boot.readings, **held}) if held else boot
