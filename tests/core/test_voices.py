"""Voices: what entries did over time adds up to the machine, and says who was held up."""

import numpy as np
import pytest

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.samples import rates
from plucky_ledger.core.replay.voices import voices_of
from tests.helpers.runs import analysed, entry, real_analysis, run, samples
from tests.helpers.standin import recorded

REAL = ("baseline-01", "without-import-01")


def standin() -> Analysis:
    found = recorded(0)
    return Analysis(found.boot, found.timeline)


@pytest.mark.parametrize("name", [*REAL, "stand-in"])
def test_voices_add_up_to_the_machine(name):
    """Nothing is drawn twice, nothing beyond what the machine did or could have done."""
    boot = standin() if name == "stand-in" else real_analysis(name)
    voices = voices_of(boot)
    width = np.diff(voices.edges)
    together = sum(voice.cpu for voice in voices.of.values()) @ width
    drive = sum(voice.drive for voice in voices.of.values()) @ width
    machine = voices.machine.cpu @ width
    assert 0.5 * machine <= together <= machine * 1.05
    moved = voices.machine.drive @ width
    assert 0.5 * moved <= drive <= moved * 1.01
    for voice in voices.of.values():
        assert (voice.cpu_wanted >= voice.cpu).all()
        assert (voice.cpu_wanted <= voices.cores + 1e-9).all()
        assert ((voice.drive_wanted >= voice.drive) & (voice.drive_wanted <= 1)).all()
        assert np.isfinite(voice.cpu_wanted).all()
    usable = rates(boot.samples)
    whole = np.nansum(usable.cpu_share * np.diff(boot.samples.seconds)) * voices.cores
    assert machine == pytest.approx(float(whole), rel=0.02)


def test_who_waits_for_the_drive_is_held_up_and_who_has_it_alone_is_not():
    voices = voices_of(standin())
    cpu, drive, held_up = voices.work("brassrail-till")
    assert held_up > cpu + drive  # eleven programs want one rotating disk at once
    cpu, drive, held_up = voices.work("device-setup.service")
    assert held_up < 0.5 * (cpu + drive)
    assert voices.work("nobody") == (0.0, 0.0, 0.0)


def test_without_programs_there_are_no_voices():
    assert voices_of(analysed(samples=samples(5.0, 20.0, 20))) is None


def test_two_samples_are_enough_to_hear_somebody():
    did = run(1, 10, name="quay", cpu=((0.0, 0.0), (4.0, 3.0)))
    voices = voices_of(
        analysed(samples=samples(3.0, 4.0, 2), runs=(did,), entries=(entry("quay", "/opt/quay"),))
    )
    assert voices.work("quay")[0] == pytest.approx(3.0)
