"""The lenses, each registered once: name, title, widget, and its section of the manual.

Their order gives their keys, 1 and on; menu, buttons and F1 follow from this list.
"""

from dataclasses import dataclass
from enum import StrEnum
from importlib import import_module
from typing import TYPE_CHECKING, cast

from plucky_ledger.wording.language import N_

if TYPE_CHECKING:
    from plucky_ledger.ui.desk import Desk
    from plucky_ledger.ui.lenses.lens import Lens


class LensName(StrEnum):
    """The lenses, in their order."""

    LANES = "lanes"
    ENTRIES = "entries"
    LOAD = "load"
    VERDICT = "verdict"
    WHY = "why"
    STATEMENT = "statement"


class LensScope(StrEnum):
    """What a lens is about."""

    BOOT = "boot"
    """One boot of the selected line, which is chosen above the lens."""
    LINE = "line"
    """All boots of the selected line."""
    COMPARED = "compared"
    """The selected line and the one before; the lens names both itself."""
    NOW = "now"
    """The PC as it is now, whichever line is selected."""
    JOB = "job"


@dataclass(frozen=True)
class RegisteredLens:
    """One lens."""

    title: str
    """To be translated."""
    widget: str
    """Class of its widget, in the module of its name in this folder: loaded when first wanted."""
    section: str
    """Section of the manual that explains it."""
    scope: LensScope


LENSES = {
    LensName.LANES: RegisteredLens(N_("Lanes"), "LanesLens", "Lanes", LensScope.BOOT),
    LensName.ENTRIES: RegisteredLens(N_("Entries"), "EntriesLens", "Entries", LensScope.LINE),
    LensName.LOAD: RegisteredLens(N_("Load"), "LoadLens", "Load", LensScope.BOOT),
    LensName.VERDICT: RegisteredLens(N_("Verdict"), "VerdictLens", "Verdict", LensScope.COMPARED),
    LensName.WHY: RegisteredLens(N_("Why"), "WhyLens", "Why", LensScope.NOW),
    LensName.STATEMENT: RegisteredLens(
        N_("Statement"), "StatementLens", "Statement", LensScope.JOB
    ),
}


def make_lens(name: LensName, desk: "Desk") -> "Lens":
    """The widget of a lens."""
    module = import_module(f"{__package__}.{name.value}")
    return cast("Lens", getattr(module, LENSES[name].widget)(desk))
