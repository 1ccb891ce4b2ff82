"""The names a recording uses, and the codes they stand for. What is not here is unknown."""

from plucky_ledger.core.boots.boot import PowerSource, StartKind
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.stages import StageKind
from plucky_ledger.core.entries.entry import EntryOwner
from plucky_ledger.core.entries.kinds import KINDS
from plucky_ledger.core.values.reasons import Reason, ReasonCode, quoted
from plucky_ledger.recording.lines import Said

FROM_JOURNAL = "read from the log"
FROM_TABLE = "from a table"
"""How a boot came into a recording that was made from the journal."""
MARKS = {
    "power on": Mark.POWER_ON,
    "kernel started": Mark.KERNEL_STARTED,
    "passphrase asked": Mark.PASSPHRASE_ASKED,
    "passphrase given": Mark.PASSPHRASE_GIVEN,
    "system up": Mark.SYSTEM_UP,
    "sign-in shown": Mark.SIGN_IN_SHOWN,
    "signed in": Mark.SIGNED_IN,
    "desktop shown": Mark.DESKTOP_SHOWN,
    "ready": Mark.READY,
    "settled": Mark.SETTLED,
}
START_KINDS = {
    "cold start": StartKind.COLD,
    "restart": StartKind.RESTART,
    "resume": StartKind.RESUME,
}
POWER_SOURCES = {"mains": PowerSource.MAINS, "battery": PowerSource.BATTERY}
STAGES = {kind.value: kind for kind in StageKind if kind is not StageKind.UNKNOWN}
OWNERS = {"system": EntryOwner.SYSTEM, "user": EntryOwner.USER}
ENTRY_KINDS = {row.recorded_as: row.kind for row in KINDS.values() if row.recorded_as}
FAILED = "failed: "
"""What stands before the service manager's word for what went wrong."""
_REASONS = {code.value: code for code in ReasonCode}


def reason_from(said: Said) -> Reason:
    """What a recorder said; a code that only a later version knows is given as it is."""
    code = _REASONS.get(said.code)
    if code is None:
        facts = ", ".join(str(fact) for fact in said.facts.values())
        return quoted(f"{said.code.replace('_', ' ')}: {facts}" if facts else said.code)
    return Reason(code, said.facts)


def result_from(text: str) -> Reason | None:
    """How an activity ended; None when it ended well."""
    if text.startswith(FAILED):
        return Reason.of(ReasonCode.FAILED, result=text.removeprefix(FAILED))
    return quoted(text) if text else None
