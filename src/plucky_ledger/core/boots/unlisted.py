"""Services of a manager that told nothing: what they did is known by their control groups alone."""

import re
from collections.abc import Callable, Iterable

from plucky_ledger.core.entries.entry import StartupEntry

OF_GROUP = "/"
"""Begins the name of such a service, which is its control group; no entry's id begins so."""
_GROUP = re.compile(
    r"((?:/system\.slice|/user\.slice/user-\d+\.slice/user@\d+\.service)"
    r"(?=/(?!init\.scope)))(?:/[^/]+\.slice)*/[^/]+\.(?:service|scope)"
)
"""The innermost manager and, below it, the unit."""


def unlisted_services(entries: Iterable[StartupEntry]) -> Callable[[str], str]:
    """A function that tells of which service without an entry a control group is; empty for those
    of managers that told of theirs: what has no entry there is part of the system.
    """
    found = (_GROUP.match(entry.group) for entry in entries)
    told = {match[1] for match in found if match is not None}

    def service(control_group: str) -> str:
        match = _GROUP.match(control_group)
        return match[0] if match is not None and match[1] not in told else ""

    return service
