"""The Entries lens: what starts by itself, as far as the boot tells."""

from dataclasses import dataclass

from plucky_ledger.bench.figures import count, shown
from plucky_ledger.core.boot import Activity, Boot, StartupEntry, Timeline


@dataclass(frozen=True)
class EntryRow:
    """One startup entry."""

    entry_id: str
    name: str
    about: str
    """Owner, kind and remarks in one line."""
    began: str
    took: str
    part_of_system: bool
    card: tuple[tuple[str, str], ...]
    """Heading and text, for the card beside the list."""


@dataclass(frozen=True)
class EntriesPage:
    """Everything the lens shows."""

    rows: tuple[EntryRow, ...]
    """Entries added to the system, in the order in which they began."""
    system_rows: tuple[EntryRow, ...]
    """Parts of the system, folded away at first."""
    system_line: str
    note: str


def entries_page(boot: Boot, timeline: Timeline) -> EntriesPage:
    """The startup entries of one boot."""
    if not timeline.entries:
        note = (
            f"This boot was {boot.how}: it tells nothing of what starts by itself. Record a boot "
            "on the PC itself."
        )
        if timeline.samples is not None:
            note = (
                "This recording lists no startup entries: the PC's service manager was not there "
                "to be asked. The programs it ran are in Load."
            )
        return EntriesPage((), (), "", note)
    seen = {activity.entry_id: activity for activity in timeline.activities}
    rows = [_row(entry, seen.get(entry.entry_id)) for entry in _in_order(timeline, seen)]
    system = tuple(row for row in rows if row.part_of_system)
    return EntriesPage(
        rows=tuple(row for row in rows if not row.part_of_system),
        system_rows=system,
        system_line=count(len(system), "part") + " of the system",
        note="What each entry costs in seconds is not worked out yet in this version.",
    )


def _in_order(timeline: Timeline, seen: dict[str, Activity]) -> list[StartupEntry]:
    def began(entry: StartupEntry) -> float:
        activity = seen.get(entry.entry_id)
        known = activity.starting_from if activity else None
        return known if known is not None else float("inf")

    return sorted(timeline.entries, key=began)


def _row(entry: StartupEntry, activity: Activity | None) -> EntryRow:
    began = activity.starting_from if activity else None
    up = activity.up_at if activity else None
    remarks = [entry.kind]
    if entry.guarded:
        remarks.append("security · guarded")
    if entry.left_behind:
        remarks.append("left behind: its program is gone")
    if entry.off_because:
        remarks.append(f"does not start: {shown(entry.off_because)}")
    card = [
        ("Starts", f"{entry.kind}, {entry.owner}"),
        ("From", shown(entry.origin)),
        ("Runs", shown(entry.command) or "nothing: its program is gone"),
    ]
    if activity and activity.waiting_from is not None and began is not None:
        card.append(("Waited", f"{began - activity.waiting_from:.1f} s for others"))
    if activity and activity.result:
        card.append(("Result", shown(activity.result)))
    return EntryRow(
        entry_id=entry.entry_id,
        name=shown(entry.name),
        about=" · ".join(remarks),
        began="not seen" if began is None else f"{began:.1f} s",
        took=f"{up - began:.1f} s" if up is not None and began is not None else "",
        part_of_system=entry.part_of_system,
        card=tuple(card),
    )
