"""Now: the last seconds of a PC, from what its recorder says, however long it goes on."""

import pytest

from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.pages.load import LoadQuestion, Span, load_page
from plucky_ledger.recording.lines import (
    Header,
    PcFacts,
    ProgramLine,
    ProgramRow,
    ProgramsLine,
    SampleLine,
)
from plucky_ledger.usecases.jobs.jobs import take_in
from plucky_ledger.usecases.reading.live_load import KEPT_SECONDS, LiveLoad, watch

HEADER = Header("", 1, "", "boot", "2026-11-26T08:00:00+00:00", "UTC", PcFacts(cores=2))


def program(run, name, own=False):
    return ProgramLine(run, 100 + run, run, 1, name, f"/opt/{name}", 1000, "", 0.5, own)


def sample(seconds, cpu):
    return SampleLine(seconds, cpu, 0, 0, 0.0, 10**9, 5, 0.0, 10**6)


@pytest.fixture
def live(ledger):
    return LiveLoad(ledger, take_in(ledger, Card("", "Bench PC"), Facts()))


def test_an_hour_is_no_more_than_its_last_seconds(live):
    """One program has a quarter of a core, one is idle since long ago, one ended, one is us."""
    live.take(
        [
            HEADER,
            program(1, "worker"),
            program(2, "sleeper"),
            program(3, "gone"),
            program(4, "recorder", own=True),
        ]
    )
    assert live.analysis() is None
    live.take(
        [
            sample(1.0, 1.0),
            ProgramsLine(
                1.0, tuple(ProgramRow(run, 1.0, 10**7, bytes_written=0) for run in (1, 2, 3, 4))
            ),
        ]
    )
    for second in range(2, 3_600):
        ended = (3,) if second == 50 else ()
        rows = (
            ProgramRow(1, second * 0.25, 10**7, bytes_written=second * 1000),
            ProgramRow(4, second * 0.01, 10**6),
        )
        live.take([sample(float(second), second * 0.3), ProgramsLine(float(second), rows, ended)])
    assert len(live._samples) <= KEPT_SECONDS + 2
    assert len(live._readings) <= KEPT_SECONDS + 2
    page = load_page(live.analysis(), LoadQuestion(Span.NOW))
    rows = {row.name: row for row in page.rows}
    assert set(rows) == {"worker", "sleeper", "recorder"}
    assert rows["worker"].amounts.cpu_seconds == pytest.approx(2.5, abs=0.3)
    assert rows["worker"].amounts.bytes_written == pytest.approx(10_000, abs=1000)
    assert rows["sleeper"].amounts.cpu_seconds == 0
    assert rows["sleeper"].amounts.memory_bytes > 0
    assert rows["recorder"].outside
    assert page.sums.processes == 2
    assert page.sums.cpu_seconds < 3.0


def test_another_pc_is_not_read(ledger):
    number = take_in(ledger, Card("", "Till"), Facts(), WhichPc(PcKind.REAL, "another"))
    with pytest.raises(Refused) as refused:
        watch(ledger, number, lambda: True, lambda _analysis: None)
    assert refused.value.code is TroubleCode.NOW_IS_ELSEWHERE
