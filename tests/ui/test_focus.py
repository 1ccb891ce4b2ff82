"""Where the keyboard is can be seen: in every view, in each appearance."""

import pytest
from PySide6.QtWidgets import QApplication

from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.theme import Appearance, show_in
from tests.ui.test_window import settle

SEEN = 20
"""Pixels of every fourth that differ at least."""


def looks(widget):
    QApplication.processEvents()
    picture = widget.grab().toImage()
    across, down = range(0, picture.width(), 2), range(0, picture.height(), 2)
    return [picture.pixel(x, y) for x in across for y in down]


def changed_by_focus(view, elsewhere):
    with_focus, without = [], [0]
    while len(with_focus) != len(without):  # it may still be laid out
        view.setFocus()
        with_focus = looks(view)
        elsewhere.setFocus()
        without = looks(view)
    return sum(a != b for a, b in zip(with_focus, without, strict=True))


@pytest.mark.parametrize("appearance", [Appearance.LIGHT, Appearance.DARK, Appearance.CONTRAST])
def test_the_focus_is_seen_in_every_view(qtbot, on_demo, appearance):
    show_in(appearance)
    try:
        window, right = on_demo, on_demo.right
        window.activateWindow()
        views = {
            LensName.LANES: lambda: (window.book.lines, right.lanes.canvas),
            LensName.ENTRIES: lambda: (right.entries.table,),
            LensName.LOAD: lambda: (right.load.table, right.load.brush),
            LensName.STATEMENT: lambda: (right.statement.preview,),
        }
        for name, of in views.items():
            right.show_lens(name)
            settle(qtbot, window)
            if name is LensName.ENTRIES:
                qtbot.waitUntil(lambda: right.entries.ready)
            if name is LensName.LOAD:
                qtbot.waitUntil(lambda: bool(right.load.model.rows))
                right.load.table.selectRow(0)
            for view in of():
                assert changed_by_focus(view, window.book.button) > SEEN, (name, view)
        window.panels.show_stopwatch()
        settle(qtbot, window)
        watch = window.panels.stopwatch
        assert watch.target.hasFocus()
        assert changed_by_focus(watch.target, window.book.button) > SEEN
    finally:
        show_in(Appearance.AS_DESKTOP)
