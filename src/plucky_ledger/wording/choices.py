"""What can be chosen in the views, and what their curves are called."""

from collections.abc import Mapping
from enum import StrEnum

from plucky_ledger.pages.entries import DecidedChoice, KindChoice, OwnerChoice
from plucky_ledger.pages.lanes import StripKind
from plucky_ledger.pages.load import By, Span
from plucky_ledger.wording.language import N_, say

CHOICES: Mapping[type[StrEnum], Mapping[StrEnum, str]] = {
    StripKind: {
        StripKind.CPU: N_("CPU"),
        StripKind.DISK: N_("Disk"),
        StripKind.MEMORY: N_("Memory"),
        StripKind.PROCESSES: N_("Processes"),
    },
    Span: {
        Span.STARTUP: N_("until settled"),
        Span.AT_REST: N_("at rest"),
        Span.WHOLE: N_("whole recording"),
    },
    By: {By.PROGRAM: N_("per program"), By.ENTRY: N_("per entry")},
    KindChoice: {
        KindChoice.ANY: N_("kind: all"),
        KindChoice.SIGN_IN: N_("sign-in programs"),
        KindChoice.SERVICES: N_("services"),
        KindChoice.TIMERS: N_("timers"),
        KindChoice.TYPED: N_("typed in"),
    },
    OwnerChoice: {
        OwnerChoice.ANY: N_("whose: all"),
        OwnerChoice.USER: N_("of the user"),
        OwnerChoice.SYSTEM: N_("of the system"),
    },
    DecidedChoice: {
        DecidedChoice.ANY: N_("decided: all"),
        DecidedChoice.NOT_DECIDED: N_("not decided"),
        DecidedChoice.DECIDED: N_("decided"),
        DecidedChoice.PENCILLED: N_("pencilled"),
        DecidedChoice.LOOK_UP: N_("to look up"),
    },
}
"""Every member of these enumerations has its words here; a test holds it to that."""


def choice(code: StrEnum) -> str:
    """What a choice of a view is called."""
    return say(CHOICES[type(code)][code])
