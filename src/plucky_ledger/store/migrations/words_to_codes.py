"""How the words that the first two versions kept became codes. Frozen: codes of 0003, no later."""

import json
from collections.abc import Callable, Mapping
from typing import Any

Row = dict[str, Any]

DRIVES = {"solid state": "solid_state", "unknown kind": "unknown"}
CHANGES = {
    "startup entry": "startup_entry",
    "a program's own setting": "program_setting",
    "a service's start mode": "service_start_mode",
    "boot option": "boot_option",
    "fast-start hibernation": "fast_start",
    "page file or swap": "swap",
    "power or effects setting": "power_or_effects",
    "removed program": "program_removed",
    "freed disk space": "disk_space",
    "disk check": "disk_check",
    "cache clearing": "cache",
    "malware scan": "malware_scan",
    "more memory": "memory",
    "solid-state drive": "solid_state_drive",
    "something else": "other",
}
STATES = {"switched off": "off", "starts later": "later"}
SAID_OF_STATES = {
    "on": " switched on again",
    "off": " switched off",
    "later": " starts later",
}
WAYS = {"timed by hand": "stopwatch", "typed in": "typed", "read from the log": "journal"}
MARKS = {
    "power on": "power_on",
    "kernel started": "kernel_started",
    "system up": "system_up",
    "sign-in shown": "sign_in_shown",
    "signed in": "signed_in",
    "desktop shown": "desktop_shown",
}
STARTS = {"cold start": "cold"}
DECISIONS = {"switch off": "off", "start later": "later", "look up": "look_up"}
ENTRIES = {
    "sign-in program": "sign_in_program",
    "system service": "system_service",
    "user service": "user_service",
    "timer": "timer",
    "sign-in": "sign_in",
    "typed in": "typed",
}
PUT_BACK, PUT_BACK_TITLE = "put back: ", "Put back: "
STAND_INS = {
    ("0417", "four-core desktop processor"): "ticket-desk",
    ("0398", "two-core desktop processor"): "gift-shop",
}
"""The demo's jobs by label and the beginning of their CPU model."""


def row_in_codes(table: str, row: Mapping[str, Any]) -> Row:
    """A row of a table, its columns that hold words put into codes."""
    return _OF_TABLE[table](dict(row))


def _job(row: Row) -> Row:
    facts = json.loads(row["facts"])
    for drive in facts.get("drives", ()):
        drive["kind"] = DRIVES.get(drive["kind"], drive["kind"])
    row["facts"] = json.dumps(facts)
    known = (
        name
        for (label, cpu), name in STAND_INS.items()
        if row["label"] == label and facts.get("cpu_model", "").startswith(cpu)
    )
    name = next(known, "")
    row["pc"] = json.dumps({"kind": "stand_in" if name else "real", "name": name})
    return row


def _posting(row: Row) -> Row:
    changes = [_change(change) for change in json.loads(row["changes"])]
    row["changes"] = json.dumps(changes)
    if row["strikes_out"] is not None and row["title"].startswith(PUT_BACK_TITLE):
        told = row["title"].removeprefix(PUT_BACK_TITLE)
        # A title that was typed stays; one made from what is put back is made anew when shown.
        if any(told.startswith(change["what"]) for change in changes):
            row["title"] = ""
    return row


def _change(change: Row) -> Row:
    change["kind"] = CHANGES.get(change["kind"], change["kind"])
    put_back = change["what"].startswith(PUT_BACK)
    if put_back:
        change["what"] = change["what"].removeprefix(PUT_BACK)
        change["put_back"] = True
    if change.get("new_state"):
        state = str(STATES.get(change["new_state"], change["new_state"]))
        change["new_state"] = state
        said = SAID_OF_STATES.values() if put_back else (SAID_OF_STATES[state],)
        for ending in said:
            change["what"] = change["what"].removesuffix(ending)
    return change


def _boot(row: Row) -> Row:
    row["how"] = WAYS.get(row["how"], row["how"])
    marks = json.loads(row["marks"])
    row["marks"] = json.dumps({MARKS.get(name, name): at for name, at in marks.items()})
    context = json.loads(row["context"])
    kind = context.get("start_kind", "unknown")
    context["start_kind"] = STARTS.get(kind, kind)
    source = context.get("power_source", "")
    context["power_source"] = source if source in {"mains", "battery"} else "unknown"
    context["notes"] = [{"code": "told", "facts": {"text": n}} for n in context.get("notes", ())]
    row["context"] = json.dumps(context)
    return row


def _decision(row: Row) -> Row:
    decided = json.loads(row["decided"])
    decided["decision"] = DECISIONS.get(decided["decision"], decided["decision"])
    row["decided"] = json.dumps(decided)
    return row


def _typed_entry(row: Row) -> Row:
    entry = json.loads(row["entry"])
    entry["kind"] = ENTRIES.get(entry["kind"], "unknown")
    entry["owner"] = entry["owner"] if entry["owner"] in {"system", "user"} else "unknown"
    off, schedule = entry.get("off_because"), entry.get("schedule")
    entry["off_because"] = {"code": "told", "facts": {"text": off}} if off else None
    entry["schedule"] = [{"code": "told", "facts": {"text": schedule}}] if schedule else []
    row["entry"] = json.dumps(entry)
    return row


_OF_TABLE: dict[str, Callable[[Row], Row]] = {
    "jobs": _job,
    "postings": _posting,
    "boots": _boot,
    "decisions": _decision,
    "typed_entries": _typed_entry,
}
