"""Program runs add up to the machine, short-lived ones included; and the chain that held it up."""

import subprocess
import sys

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.sampling.programs import ProgramSampler
from plucky_ledger.cli.record import main as record_main
from plucky_ledger.core.boots.attribution import attribute
from plucky_ledger.core.boots.chain import chain_to
from plucky_ledger.core.boots.context import disk_checked, updates_running
from plucky_ledger.core.boots.samples import Samples, grown_by, thinned
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.boots.without_set_aside import without_programs
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.standin.boot_run import Setup
from tests.helpers.runs import run
from tests.helpers.standin import recorded


def test_a_program_set_aside_is_taken_out_of_every_figure():
    """As if a remote-help session had never been there."""
    recording = recorded(6).timeline
    samples = recording.samples
    aside = tuple(r for r in recording.runs if r.name == "saltmarsh-backup")
    without = without_programs(samples, aside)
    assert samples.cpu_seconds[-1] - without.cpu_seconds[-1] == pytest.approx(
        sum(r.cpu_seconds[-1] for r in aside), abs=0.01
    )
    read = samples.disk_read_bytes[-1] - without.disk_read_bytes[-1]
    assert read == pytest.approx(sum(r.bytes_read[-1] for r in aside), rel=0.01)
    assert samples.memory_held_bytes[-1] - without.memory_held_bytes[-1] > 250e6
    assert samples.processes[-1] - without.processes[-1] == 1
    assert (np.diff(without.cpu_seconds) >= 0).all()
    assert without.disk_busy_seconds[-1] < samples.disk_busy_seconds[-1]


def test_short_lived_programs_of_this_machine_do_not_vanish(tmp_path):
    """Dozens of programs come and go between samples; their work shows at who started them."""
    path = tmp_path / "boot.jsonl"
    shell = subprocess.Popen(
        ["sh", "-c", f"while :; do {sys.executable} -c 'sum(range(900000))'; done"]
    )
    try:
        assert record_main(["--for", "4", "--rate", "1", "--out", str(path)]) == 0
    finally:
        shell.kill()
        shell.wait()
    timeline = boot_from_bytes(path.read_bytes()).timeline
    (ours,) = [r for r in timeline.runs if r.pid == shell.pid]
    inherited = ours.children_cpu_seconds[-1] - ours.children_cpu_seconds[0]
    own = ours.cpu_seconds[-1] - ours.cpu_seconds[0]
    assert inherited > max(0.2, 3 * own)


def test_nine_tenths_and_more_of_the_stand_ins_work_is_explained():
    timeline = recorded(4).timeline
    assert min(attribute(timeline).explained_share(timeline.samples.end)) > 0.98


@given(st.lists(st.floats(0.05, 3.0), min_size=2, max_size=60), st.floats(0.2, 2.0))
def test_thinning_loses_no_work(widths, step):
    seconds = np.cumsum([0.0, *widths])
    counter = np.cumsum(np.ones_like(seconds))
    zero = np.zeros_like(seconds)
    whole = Samples(
        seconds=seconds,
        cpu_seconds=counter,
        disk_read_bytes=zero,
        disk_written_bytes=zero,
        disk_busy_seconds=zero,
        memory_held_bytes=zero,
        processes=zero,
        own_cpu_seconds=zero,
        own_memory_bytes=zero,
    )
    thin = thinned(whole, step)
    assert thin.end == whole.end
    assert grown_by(thin.cpu_seconds, thin.seconds, thin.end) == counter[-1]
    assert (np.diff(thin.seconds)[:-1] >= 0.9 * step - 1e-9).all()


def test_the_sampler_tells_a_parent_what_its_children_used():
    sampler = ProgramSampler()
    sampler.sample(1.0)
    subprocess.run([sys.executable, "-c", "sum(range(6_000_000))"], check=True)
    rows = [row for line in sampler.sample(2.0) if hasattr(line, "rows") for row in line.rows]
    assert max(row.children_cpu_seconds for row in rows) > 0.05
    sampler.close()


def test_updates_and_disk_checks_are_noticed():
    busy = run(1, 5, name="dpkg", cpu=((1.0, 9.0),))
    looking = run(1, 5, name="packagekitd", cpu=((1.0, 0.4),))
    assert updates_running((busy,))
    assert not updates_running((looking, run(2, 6, name="tidewatch", cpu=((1.0, 90.0),))))
    assert recorded(2, Setup(updates_running=True)).boot.context.updates_running
    upgrade = Activity(
        entry_id="apt-daily-upgrade.service", waiting_from=1.0, starting_from=20.0, up_at=55.0
    )
    assert updates_running((), (upgrade,))
    assert not updates_running(
        (),
        (Activity(entry_id="apt-daily.service", waiting_from=1.0, starting_from=2.0, up_at=4.0),),
    )
    check = Activity(
        entry_id="systemd-fsck-root.service", waiting_from=1.0, starting_from=2.0, up_at=31.0
    )
    assert disk_checked((check,))
    assert not disk_checked(
        (
            Activity(
                entry_id="systemd-fsck-root.service", waiting_from=1.0, starting_from=2.0, up_at=2.4
            ),
        )
    )


CHAIN = (
    Activity(entry_id="a", waiting_from=0.0, starting_from=0.0, up_at=4.0),
    Activity(entry_id="b", waiting_from=0.0, starting_from=0.0, up_at=9.0),
    Activity(entry_id="c", waiting_from=0.0, starting_from=9.1, up_at=12.0, after=("a", "b")),
    Activity(entry_id="d", waiting_from=20.0, starting_from=20.5, up_at=31.0),
    Activity(entry_id="e", waiting_from=20.0, starting_from=20.5, up_at=25.0),
    Activity(entry_id="f", waiting_from=20.0, starting_from=None, up_at=None),
)


@pytest.mark.parametrize(
    ("mark", "names"),
    [(12.0, "b c"), (31.0, "b c d"), (25.2, "b c e"), (2.0, "")],
)
def test_the_thread_runs_back_through_who_was_waited_for(mark, names):
    """Across the sign-in wait from 12 to 20 s, which is nobody's."""
    links = chain_to(mark, CHAIN, sign_in=(12.0, 20.0))
    assert " ".join(link.entry_id for link in links) == names


def test_circular_orderings_end_the_thread():
    circle = (
        Activity(entry_id="a", waiting_from=0.0, starting_from=1.0, up_at=2.0, after=("b",)),
        Activity(entry_id="b", waiting_from=0.0, starting_from=1.0, up_at=2.0, after=("a",)),
    )
    assert len(chain_to(2.0, circle)) <= 2
