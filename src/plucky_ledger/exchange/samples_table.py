"""Samples from a table as a recording: kept, read and exported like any other."""

from collections.abc import Iterable
from datetime import UTC, datetime
from hashlib import sha256

import msgspec

from plucky_ledger.core.boots.samples_table import Counted
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.exchange.names import FROM_TABLE
from plucky_ledger.recording.lines import (
    FORMAT,
    VERSION,
    EndLine,
    Header,
    Line,
    NoteLine,
    PcFacts,
    SampleLine,
    said,
)


def recording_of_table(
    counted: Iterable[Counted],
    untold: Iterable[Measure],
    started_at: datetime,
    name: str,
    cores: int,
) -> bytes:
    """A recording whose samples come from the table called ``name``, which tells nothing of some
    measures.

    The same samples have the same name of their boot: they are one boot however often they come.
    """
    samples: list[Line] = [
        SampleLine(
            seconds=one.seconds,
            cpu_seconds=one.cpu_seconds,
            disk_read_bytes=round(one.disk_read_bytes),
            disk_written_bytes=0,
            disk_busy_seconds=one.disk_busy_seconds,
            memory_held_bytes=round(one.memory_bytes),
            processes=round(one.processes),
        )
        for one in counted
    ]
    told = msgspec.json.encode(samples)
    header = Header(
        format=FORMAT,
        version=VERSION,
        recorder="",
        boot_id=f"table-{sha256(told).hexdigest()[:32]}",
        started_at=started_at.astimezone(UTC).isoformat(),
        zone="",
        facts=PcFacts(cores=cores),
        how=FROM_TABLE,
    )
    note = NoteLine(said=said(ReasonCode.FROM_TABLE, name=name, untold=" ".join(untold)))
    lines: list[Line] = [header, note, *samples]
    end = EndLine(len(lines), len(samples), ReasonCode.FROM_TABLE.value)
    return b"".join(msgspec.json.encode(line) + b"\n" for line in (*lines, end))
