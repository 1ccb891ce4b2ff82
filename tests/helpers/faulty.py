"""A job on a stand-in PC with a fault built in: taken in, and recorded a few times."""

from datetime import timedelta

from plucky_ledger.capture.sampling.recorder import record
from plucky_ledger.core.job.job import Card
from plucky_ledger.exchange.facts import facts_from
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import take_in
from plucky_ledger.usecases.reading.advice import why
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import CostsKept
from plucky_ledger.usecases.recording.boots import import_recording

SECONDS = 150.0


def recorded_job(ledger, pc, folder, boots=2, setup=Setup(), restarted=True):  # noqa: B008
    """The job's number. Not ``restarted``: all boots are from before it was taken in."""
    number = take_in(ledger, Card("", "Bench PC"), facts_from(pc.facts))
    begin = now() + (timedelta() if restarted else timedelta(days=-9))
    for seed in range(boots):
        path = folder / f"boot-{seed}.jsonl"
        boot = pc.restart(setup, seed, begin + timedelta(minutes=10 * seed))
        with RecordingWriter(path) as writer:
            record(boot, boot, writer, SECONDS)
        import_recording(ledger, number, path)
    return number


def found_on(ledger, pc, folder, **how):
    """What is found on such a PC."""
    number = recorded_job(ledger, pc, folder, **how)
    analyses = Analyses()
    return why(ledger, number, analyses, CostsKept(analyses))
