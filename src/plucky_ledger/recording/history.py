"""The line that tells what was installed, updated and removed on a PC over months."""

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


class HistoryLine(Struct, frozen=True, tag="history", tag_field="kind"):
    """What the package manager wrote down, oldest first."""

    packages: Annotated[tuple[PackageRow, ...], Meta(max_length=50_000)] = ()
