"""View: lenses, orders, appearance."""

from collections.abc import Iterator

from plucky_ledger.core.values.measures import Measure
from plucky_ledger.ui.actions import Action, Menu, Place
from plucky_ledger.ui.lenses.registry import LENSES
from plucky_ledger.ui.menus.possible import Possible, WindowCommands
from plucky_ledger.ui.theme import Appearance, choose_appearance
from plucky_ledger.wording.labels import LABELS
from plucky_ledger.wording.lanes import ORDERS
from plucky_ledger.wording.language import N_

APPEARANCES = (
    (Appearance.AS_DESKTOP, N_("As the desktop")),
    (Appearance.LIGHT, N_("Light")),
    (Appearance.DARK, N_("Dark")),
)
LANES = frozenset({Place.LANES})


def view_menu(window: WindowCommands, may: Possible) -> Iterator[Action]:
    menu, lanes = Menu.VIEW, window.right.lanes
    for index, (lens, registered) in enumerate(LENSES.items(), 1):
        yield Action(f"lens_{lens}", menu, registered.title, str(index),
                     lambda lens=lens: window.right.show_lens(lens))  # type: ignore[misc] # fmt: skip
    yield Action("other_page", menu, N_("Other page"), "F6", window.ways.other_page, new_group=True)
    canvas = lanes.canvas
    yield Action("closer", menu, N_("Lanes: closer"), "Ctrl++", lambda: canvas.zoom(1.25))
    yield Action("further", menu, N_("Lanes: further away"), "Ctrl+-", lambda: canvas.zoom(0.8))
    yield Action("whole_boot", menu, N_("Lanes: whole boot"), "Ctrl+0", canvas.fit, places=LANES)
    yield Action(
        "find_lane", menu, N_("Lanes: find"), "Ctrl+F", window.ways.find_lane, places=LANES
    )
    yield Action(
        "fold_lanes", menu, N_("Lanes: fold the system"), "Ctrl+L", lanes.fold.toggle, places=LANES
    )
    yield Action(
        "lanes_table", menu, N_("Lanes: as a table"), "T", lanes.as_table.toggle, may.lanes, LANES
    )
    for order, words in ORDERS.items():
        yield Action(
            f"lanes_{order}",
            menu,
            words,
            "",
            lambda order=order: lanes.order_by(order),  # type: ignore[misc]
            submenu=N_("Order of the lanes"),
        )
    for index, measure in enumerate(Measure):
        yield Action(
            f"keep_in_{measure}",
            menu,
            LABELS[Measure][measure],
            "",
            lambda measure=measure: window.desk.keep_book_in(measure),  # type: ignore[misc]
            submenu=N_("Book kept in"),
            new_group=index == 0,
        )
    for appearance, words in APPEARANCES:
        yield Action(
            f"appearance_{appearance}",
            menu,
            words,
            "",
            lambda appearance=appearance: choose_appearance(appearance),  # type: ignore[misc]
            submenu=N_("Appearance"),
        )
