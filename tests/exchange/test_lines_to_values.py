"""What a recording's lines tell arrives in the core's values under its own name."""

from dataclasses import fields
from datetime import UTC, datetime

import msgspec
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.pc.condition import Condition, DriveHealth, FileSystem, MemoryModule
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.exchange.condition import condition_from
from plucky_ledger.exchange.history import history_from, power_log_from
from plucky_ledger.exchange.names import reason_from, result_from
from plucky_ledger.recording.condition import (
    ConditionLine,
    DriveHealthFacts,
    FileSystemFacts,
    ModuleFacts,
)
from plucky_ledger.recording.history import HistoryLine, PackageRow
from plucky_ledger.recording.lines import Said

CALLED_OTHERWISE = {"kind": "type"}


def made_up(line, number):
    """A line with another value in every field, by the field's type."""
    values = {}
    for field in msgspec.structs.fields(line):
        number += 1
        told = str(field.type)
        if "tuple" in told:
            continue
        if "bool" in told:
            values[field.name] = True
        elif "float" in told:
            values[field.name] = number / 1000
        else:
            values[field.name] = str(number) if "str" in told else number
    return line(**values)


def assert_told(value, line):
    """Every field of the value is what the line tells under that name."""
    compared = 0
    for field in fields(value):
        name = CALLED_OTHERWISE.get(field.name, field.name)
        if hasattr(line, name) and not isinstance(getattr(line, name), tuple):
            assert getattr(value, field.name) == getattr(line, name), field.name
            compared += 1
    scalars = [one for one in msgspec.structs.asdict(line).values() if not isinstance(one, tuple)]
    assert compared == len(scalars)


@given(st.integers(0, 500))
def test_the_condition_of_a_pc_keeps_every_name(number):
    parts = {
        "modules": (made_up(ModuleFacts, number),),
        "file_systems": (made_up(FileSystemFacts, number + 20),),
        "drives": (made_up(DriveHealthFacts, number + 40),),
    }
    line = msgspec.structs.replace(made_up(ConditionLine, number + 60), **parts)
    told = condition_from(line)
    assert isinstance(told, Condition)
    assert_told(told, line)
    for name, kind in (
        ("modules", MemoryModule),
        ("file_systems", FileSystem),
        ("drives", DriveHealth),
    ):
        (value,) = getattr(told, name)
        assert isinstance(value, kind)
        assert_told(value, parts[name][0])


def test_the_system_lies_where_it_is_mounted():
    line = ConditionLine(
        file_systems=tuple(FileSystemFacts(mount, "ext4", 9, 1) for mount in ("/", "/home"))
    )
    assert [one.system for one in condition_from(line).file_systems] == [True, False]


def test_a_history_passes_over_what_has_no_date_or_no_known_action():
    rows = (
        PackageRow("2026-11-03", "installed", "tideclock", "2"),
        PackageRow("yesterday", "installed", "odd", "1"),
        PackageRow("2026-11-03", "painted", "odd", "1"),
    )
    line = HistoryLine(packages=rows, starts=(20.0, 10.0), wakes=(15.0,))
    assert [event.name for event in history_from(line)] == ["tideclock"]
    log = power_log_from(line)
    assert log.starts == tuple(datetime.fromtimestamp(at, UTC) for at in (10, 20))
    assert log.wakes == (datetime.fromtimestamp(15, UTC),)


def test_what_a_later_version_says_is_given_as_it_is():
    known = reason_from(Said(ReasonCode.FAILED.value, {"result": "timeout"}))
    assert (known.code, known.facts) == (ReasonCode.FAILED, {"result": "timeout"})
    later = reason_from(Said("seen_in_a_dream", {"by": "nobody"}))
    assert later.facts == {"text": "seen in a dream: nobody"}
    assert result_from("failed: timeout") == known
    assert result_from("") is None
