"""The commands in the order of the work, as the help lists them."""

from collections.abc import Mapping

from plucky_ledger.wording.language import N_

GROUPS: Mapping[str, tuple[str, ...]] = {
    N_("Take a PC in"): ("take-in", "visit", "jobs", "open", "demo", "demo-ledger"),
    N_("Record it"): (
        "arm",
        "disarm",
        "care",
        "pick-up",
        "record",
        "past-boots",
        "stick",
        "import",
        "import-table",
        "card",
        "set-aside",
        "bring-back",
    ),
    N_("See what it costs"): ("entries", "why", "load", "trend", "room", "noticed"),
    N_("Decide and change"): (
        "decide",
        "pencil",
        "rub-out",
        "post",
        "put-back",
        "stop-now",
        "changes",
        "undo",
        "redo",
    ),
    N_("See what came of it"): ("book", "compare", "turns", "effects", "night-shift"),
    N_("Hand it over, and the rest"): (
        "statement",
        "export",
        "learned",
        "repair",
        "workshop",
        "move",
        "completion",
    ),
}
