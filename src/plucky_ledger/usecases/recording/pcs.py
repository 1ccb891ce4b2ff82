"""The PC a job is about, whichever it is."""

from plucky_ledger.core.job.job import Job
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.recording.pc import Pc

__all__ = ["Pc", "is_this_pc", "pc_of", "this_pc"]


def this_pc() -> Pc:
    """The PC we run on."""
    from plucky_ledger.capture.real_pc import RealPc

    return RealPc()


def pc_of(job: Job) -> Pc:
    """The PC a job is about. A real one that has not told which it is may be this one."""
    if job.pc.kind is PcKind.STAND_IN:
        from plucky_ledger.usecases.recording.stand_ins import stand_in_of

        return stand_in_of(job)
    here = this_pc()
    if job.pc.name and job.pc != here.which:
        return Pc(job.pc)
    return here


def is_this_pc(job: Job) -> bool:
    """Whether a job's PC is certainly the one we run on: one that has not told may be any."""
    return job.pc.kind is PcKind.REAL and bool(job.pc.name) and job.pc == this_pc().which
