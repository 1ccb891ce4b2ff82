"""The line that tells what a PC has gone through over months: packages, starts, sleep."""

from typing import Annotated

from msgspec import Meta, Struct

Text = Annotated[str, Meta(max_length=4096)]


class PackageRow(Struct, frozen=True, array_like=True):
    """One package on one day."""

    day: Annotated[str, Meta(max_length=10)]
    """In the PC's own time, such as "2026-05-03"."""
    action: Text
    """"installed", "updated" or "removed"."""
    name: Text
    version: Text = ""


Instants = Annotated[
    tuple[Annotated[float, Meta(ge=0, le=253_000_000_000)], ...], Meta(max_length=50_000)
]
"""Seconds of the epoch, in UTC, oldest first."""


class HistoryLine(Struct, frozen=True, tag="history", tag_field="kind"):
    """What the PC's own logs have written down, oldest first."""

    packages: Annotated[tuple[PackageRow, ...], Meta(max_length=50_000)] = ()
    starts: Instants = ()
    """When it was started."""
    wakes: Instants = ()
    """When it woke up from sleep."""
