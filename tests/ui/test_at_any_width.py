"""The window on a small screen and with large text: names, next step and balance stay in sight."""

import gettext
from contextlib import contextmanager

import pytest
from PySide6.QtCore import QRect, QRectF, Qt
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QApplication, QLabel, QPushButton

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.ui.book.line_layout import narrow, narrowest
from plucky_ledger.ui.drawing.reading_order import begins_at, rest_after
from plucky_ledger.ui.lenses.registry import LENSES, LensName, LensScope
from plucky_ledger.ui.theme import scaled_font
from plucky_ledger.usecases.recording import turns
from plucky_ledger.wording import language
from plucky_ledger.wording.book import line_in_words
from plucky_ledger.wording.labels import label
from tests.ui.test_window import press, settle


@contextmanager
def text_size(factor):
    """Text so many times as large, as a desktop may set it."""
    app = QApplication.instance()
    before = app.font()
    larger = app.font()
    larger.setPointSizeF(before.pointSizeF() * factor)
    app.setFont(larger)
    try:
        yield
    finally:
        app.setFont(before)


def is_whole(widget):
    """Whether all of its words are in it."""
    needed = widget.fontMetrics().horizontalAdvance(widget.text())
    return widget.width() >= min(needed, widget.sizeHint().width())


class Longer(gettext.NullTranslations):
    """Every message two fifths longer, as in another language."""

    def gettext(self, message):
        more = 2 * len(message) // 5
        return message + ("nnnnnnn " * more)[:more].rstrip()

    def pgettext(self, context, message):
        return self.gettext(message)

    def ngettext(self, one, many, number):
        return self.gettext(one if number == 1 else many)


@contextmanager
def words(locale, translations):
    language.use(locale, translations)
    try:
        yield
    finally:
        language.use("en")


@pytest.mark.parametrize(
    ("factor", "locale", "translations", "size"),
    [
        (1.0, "en", None, (1024, 680)),
        (1.5, "en", None, (1280, 800)),
        (1.0, "en", Longer(), (1280, 800)),
        (1.0, "de_DE", None, (1024, 680)),
        (1.5, "en", None, (1024, 768)),
        (1.5, "de_DE", None, (1024, 768)),
        (1.0, "en", Longer(), (1024, 768)),
        (1.5, "en", Longer(), (1280, 800)),
    ],
)
def test_a_small_window_keeps_names_the_next_step_and_the_balance(
    qtbot, opened, demo_path, factor, locale, translations, size
):
    with text_size(factor), words(locale, translations):
        window = opened(demo_path)
        window.resize(*size)
        qtbot.waitUntil(lambda: window.desk.job is not None)
        for name in LensName:
            window.right.show_lens(name)
            settle(qtbot, window)
            QApplication.processEvents()
            assert window.size().toTuple() == size
            assert window.minimumSizeHint().width() <= size[0]
            book = window.book
            assert book.width() >= narrowest()
            assert book.button.isVisible()
            assert is_whole(book.button)
            assert book.balance.isVisible()
            for heading in book.findChildren(QLabel):
                assert not heading.isVisible() or heading.wordWrap() or is_whole(heading), (
                    heading.text()
                )
            for button in window.right.head.findChildren(QPushButton):
                assert not button.isVisible() or is_whole(button), button.text()
        entries = window.right.entries
        qtbot.waitUntil(lambda: entries.ready)
        letters = QFontMetrics(scaled_font(0.82, bold=True))
        for decision in Decision:
            wide = letters.horizontalAdvance(label(decision).upper())
            assert entries.table.columnWidth(3) > wide + 10


def test_the_balance_never_scrolls_away_and_is_reached_by_the_keyboard(qtbot, on_demo):
    on_demo.resize(1280, 420)
    QApplication.processEvents()
    book = on_demo.book
    assert book.lines.verticalScrollBar().maximum() > 0
    assert book.balance.isVisible()
    assert book.balance.height() >= book.balance.sizeHintForRow(book.model.rowCount() - 1)
    qtbot.keyClick(book.lines, Qt.Key.Key_End)
    assert on_demo.desk.line == book.model.rowCount() - 1
    qtbot.keyClick(book.lines, Qt.Key.Key_Up)
    assert on_demo.desk.line == book.model.rowCount() - 2
    qtbot.keyClick(book.lines, Qt.Key.Key_Down)
    qtbot.keyClick(book.lines, Qt.Key.Key_Home)
    assert on_demo.desk.line == 0


def test_turns_are_one_line_that_opens(qtbot, on_demo):
    desk, book = on_demo.desk, on_demo.book
    number, ledger = desk.job.number, desk.ledger
    press(qtbot, on_demo, "Ctrl+Backspace")
    settle(qtbot, on_demo)
    desk.do(lambda _: turns.begin_turns(ledger, number, desk.measure, 4))
    settle(qtbot, on_demo)
    for _ in range(4):
        desk.do(lambda _: turns.play_turn(ledger, number))
        settle(qtbot, on_demo)
    desk.stand_at_newest()
    lines = book.model.rowCount() - 1
    shown = [row for row in range(lines) if not book.lines.isRowHidden(row)]
    assert len(shown) == 6
    assert lines > 7
    assert book.model.words[shown[-1]].particulars == "Boots in turns"
    assert desk.line == shown[-1]
    press(qtbot, on_demo, "Ctrl+Shift+F")
    assert not any(book.lines.isRowHidden(row) for row in range(lines))
    press(qtbot, on_demo, "Ctrl+Shift+F")
    desk.select_line(lines - 2)
    assert not book.lines.isRowHidden(lines - 2), "what is selected elsewhere is in sight"


def test_every_lens_says_what_it_is_about(qtbot, on_demo):
    head = on_demo.right.head
    on_demo.resize(1500, 800)
    on_demo.desk.select_line(2)
    expected = {
        LensScope.LINE: "Saltmarsh Backup starts later · 4 boots, 1 set aside",
        LensScope.BOOT: "Saltmarsh Backup starts later",
        LensScope.NOW: "the PC as it is now",
        LensScope.JOB: "the whole job",
        LensScope.COMPARED: "",
    }
    for name, lens in LENSES.items():
        on_demo.right.show_lens(name)
        settle(qtbot, on_demo)
        assert head.about.accessibleName() == expected[lens.scope]
        assert head.chooser.isVisible() == (lens.scope is LensScope.BOOT)
    assert line_in_words(on_demo.desk.job, 99, counted=True) == "the whole job"
    on_demo.resize(1280, 800)
    on_demo.pages.setSizes([narrow() // 2, 900])
    QApplication.processEvents()
    assert on_demo.book.lines.isVisible()


def left_of(window, part):
    return part.mapTo(window, part.rect().topLeft()).x()


def test_right_to_left_lines_begin_at_the_right(qtbot, on_demo):
    box = QRect(10, 0, 100, 10)
    assert begins_at(box, 5, 20) == 15
    lines = on_demo.book.lines
    as_it_was = lines.grab().toImage()
    app = QApplication.instance()
    app.setLayoutDirection(Qt.LayoutDirection.RightToLeft)
    try:
        assert begins_at(box, 5, 20) == 85
        assert rest_after(QRectF(box), 30) == QRectF(10, 0, 70, 10)
        QApplication.processEvents()
        assert lines.grab().toImage() != as_it_was
        book, right = on_demo.book, on_demo.right
        qtbot.waitUntil(lambda: left_of(on_demo, book) > left_of(on_demo, right))
    finally:
        app.setLayoutDirection(Qt.LayoutDirection.LeftToRight)
