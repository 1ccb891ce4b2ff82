"""View: lenses, orders, appearance."""

from collections.abc import Iterator

from plucky_ledger.core.values.measures import Measure
from plucky_ledger.ui.actions import Action, Menu, Place
from plucky_ledger.ui.lenses.registry import LENSES
from plucky_ledger.ui.menus.possible import Possible, WindowCommands
from plucky_ledger.ui.theme import APPEARANCES, choose_appearance
from plucky_ledger.wording.labels import LABELS
from plucky_ledger.wording.lanes import ORDERS
from plucky_ledger.wording.language import N_

BOOK = frozenset({Place.BOOK})
LANES = frozenset({Place.LANES})


def view_menu(window: WindowCommands, may: Possible) -> Iterator[Action]:
    menu, lanes = Menu.VIEW, window.right.lanes
    for index, (lens, registered) in enumerate(LENSES.items(), 1):
        yield Action(
            name=f"lens_{lens}",
            menu=menu,
            words=registered.title,
            keys=str(index),
            do=lambda lens=lens: window.right.show_lens(lens),  # type: ignore[misc]
        )
    yield Action(
        name="other_page",
        menu=menu,
        words=N_("Other page"),
        keys="F6",
        do=window.ways.other_page,
        new_group=True,
    )
    canvas = lanes.canvas
    yield Action(
        name="closer",
        menu=menu,
        words=N_("Lanes: zoom in"),
        keys="Ctrl++",
        do=lambda: canvas.zoom(1.25),
    )
    yield Action(
        name="further",
        menu=menu,
        words=N_("Lanes: zoom out"),
        keys="Ctrl+-",
        do=lambda: canvas.zoom(0.8),
    )
    yield Action(
        name="whole_boot",
        menu=menu,
        words=N_("Lanes: whole boot"),
        keys="Ctrl+0",
        do=canvas.fit,
        places=LANES,
    )
    yield Action(
        name="find",
        menu=menu,
        words=N_("Find"),
        keys="Ctrl+F",
        do=window.ways.find,
        places=LANES,
    )
    yield Action(
        name="fold_lanes",
        menu=menu,
        words=N_("Lanes: fold the system"),
        keys="Ctrl+L",
        do=lanes.fold.toggle,
        places=LANES,
    )
    yield Action(
        name="lanes_table",
        menu=menu,
        words=N_("Lanes: as a table"),
        keys="T",
        do=lanes.as_table.toggle,
        possible=may.lanes,
        places=LANES,
    )
    yield Action(
        name="fold_book",
        menu=menu,
        words=N_("Book: fold turns and night shifts"),
        keys="Ctrl+Shift+F",
        do=window.book.fold_or_unfold,
        places=BOOK,
    )
    for order, words in ORDERS.items():
        yield Action(
            name=f"lanes_{order}",
            menu=menu,
            words=words,
            keys="",
            do=lambda order=order: lanes.order_by(order),  # type: ignore[misc]
            submenu=N_("Order of the lanes"),
        )
    for index, measure in enumerate(Measure):
        yield Action(
            name=f"keep_in_{measure}",
            menu=menu,
            words=LABELS[Measure][measure],
            keys="",
            do=lambda measure=measure: window.desk.keep_book_in(measure),  # type: ignore[misc]
            submenu=N_("Book kept in"),
            new_group=index == 0,
        )
    for appearance, words in APPEARANCES.items():
        yield Action(
            name=f"appearance_{appearance}",
            menu=menu,
            words=words,
            keys="",
            do=lambda appearance=appearance: choose_appearance(appearance),  # type: ignore[misc]
            submenu=N_("Appearance"),
        )
