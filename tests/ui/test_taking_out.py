"""What leaves the window: tables, pictures, paper; and what it remembers."""

import csv
from operator import attrgetter
from pathlib import Path

import pytest
from PySide6.QtGui import QColor, QImage
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QApplication, QScrollArea, QWidget

from plucky_ledger.ui.drawing.evidence import EvidencePicture
from plucky_ledger.ui.lenses.headed_model import cells_of
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.recent_ledgers import recent_ledgers, remember_ledger
from plucky_ledger.ui.remembered import keep, last_job
from plucky_ledger.ui.saving_pictures import save_chart
from plucky_ledger.ui.theme import Appearance, choose_appearance, ink
from plucky_ledger.usecases.jobs.opening import address_of
from plucky_ledger.usecases.jobs.preferences import Preferences, keep_preferences
from plucky_ledger.usecases.jobs.saving import save_table
from plucky_ledger.wording import language
from plucky_ledger.wording.figures import list_separator
from tests.ui.test_window import press, settle


def test_the_table_in_sight_is_saved_for_a_spreadsheet(qtbot, on_demo, tmp_path):
    press(qtbot, on_demo, "2")
    entries = on_demo.right.entries
    qtbot.waitUntil(lambda: entries.ready)
    assert on_demo.taking_out.table is entries.table
    path = tmp_path / "entries.csv"
    on_demo.taking_out.save_table(path)
    qtbot.waitUntil(lambda: str(path) in on_demo.message)
    with path.open(encoding="utf-8-sig", newline="") as file:
        rows = list(csv.reader(file))
    assert rows[0] == ["entry", "seconds it costs", "MB held", "decided"]
    assert rows[1] == cells_of(entries.model, 0)
    assert len(rows) == len(entries.model.rows) + 1
    press(qtbot, on_demo, "6")
    qtbot.waitUntil(lambda: on_demo.right.shown is on_demo.right.statement)
    assert on_demo.taking_out.table is None


def test_cells_are_parted_by_what_no_figure_has(tmp_path):
    path = tmp_path / "table.csv"
    try:
        language.use("de_DE")
        save_table([["1,5", 'a "b"; c']], list_separator(), path)
    finally:
        language.use("en")
    assert path.read_bytes().decode("utf-8-sig") == '1,5;"a ""b""; c"\r\n'
    assert list_separator() == ","


def test_a_view_is_copied_and_the_statement_printed(qtbot, on_demo, tmp_path):
    press(qtbot, on_demo, "4")
    qtbot.waitUntil(lambda: on_demo.right.verdict.page is not None)
    press(qtbot, on_demo, "Ctrl+Shift+C")
    picture = QApplication.clipboard().image()
    assert picture.width() > 600
    assert len({picture.pixel(x, 40) for x in range(0, picture.width(), 3)}) > 3
    press(qtbot, on_demo, "6")
    statement = on_demo.right.statement
    qtbot.waitUntil(lambda: statement.is_whole)
    printer = QPrinter()
    printer.setOutputFileName(str(tmp_path / "statement.pdf"))
    statement.print_to(printer)
    assert (tmp_path / "statement.pdf").read_bytes().startswith(b"%PDF")


def test_every_chart_is_saved_from_its_own_menu(qtbot, on_demo, tmp_path):
    for key, inside, name in (
        ("1", "lanes.canvas", "LanesCanvas"),
        ("4", "verdict", "TwoStrips"),
        ("5", "why", "EvidencePicture"),
        ("3", "load.brush", "SpanBrush"),
    ):
        press(qtbot, on_demo, key)
        view = attrgetter(inside)(on_demo.right)

        def charts(view=view, name=name):
            found = [view, *view.findChildren(QWidget)]
            return [one for one in found if type(one).__name__ == name and one.is_chart]

        qtbot.waitUntil(lambda charts=charts: any(one.isVisible() for one in charts()))
        chart = next(one for one in charts() if one.isVisible())
        view.customContextMenuRequested.emit(chart.mapTo(view, chart.rect().center()))
        menu = QApplication.activePopupWidget()
        words = [action.text() for action in menu.actions()]
        assert words[-2:] == ["Save this chart as a picture…", "Copy this chart"]
        menu.actions()[-1].trigger()
        menu.close()
        copied = QApplication.clipboard().image()
        assert copied.width() >= 2 * chart.width()
        for ending in (".svg", ".png"):
            path = tmp_path / f"{name}{ending}"
            save_chart(on_demo.desk, chart, path)
            qtbot.waitUntil(path.exists)
        svg = (tmp_path / f"{name}.svg").read_text()
        assert on_demo.desk.job.card.label in svg
        assert "<image" not in svg, "it is drawn, not a picture of a screen"
        assert svg.count("<path") + svg.count("<polyline") + svg.count("<rect") > 1
        assert QSvgRenderer(svg.encode()).isValid()


def test_a_view_is_saved_with_what_it_scrolls_to(qtbot, on_demo, tmp_path):
    on_demo.resize(1100, 600)
    press(qtbot, on_demo, "5")
    why = on_demo.right.why
    qtbot.waitUntil(lambda: bool(why.findChildren(EvidencePicture)))
    settle(qtbot, on_demo)
    path = tmp_path / "why.svg"
    on_demo.taking_out.save_view(why, path)
    qtbot.waitUntil(path.exists)
    (scrolled,) = [area for area in why.findChildren(QScrollArea) if area.isVisible()]
    assert scrolled.widget().height() > scrolled.height()
    assert QSvgRenderer(str(path)).defaultSize().height() > scrolled.widget().height()
    on_demo.taking_out.save_view(why, tmp_path / "why.gif")
    qtbot.waitUntil(lambda: ".svg" in on_demo.message)


def test_the_workshop_heads_the_statement(qtbot, on_demo, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    mark = QImage(40, 20, QImage.Format.Format_ARGB32)
    mark.fill(QColor("#3F6480"))
    assert mark.save(str(tmp_path / "mark.png"))
    press(qtbot, on_demo, "Ctrl+,")
    panel = on_demo.panels.preferences
    qtbot.waitUntil(lambda: panel.boots.value() == 3)
    panel.workshop.setText("Sailmaker Lane <Repairs>")
    panel.address.setPlainText("1 Slipway\nGullwing")
    panel.mark.setText(str(tmp_path / "mark.png"))
    panel.keep()
    qtbot.waitUntil(lambda: not panel.isVisible())
    press(qtbot, on_demo, "6")
    statement = on_demo.right.statement
    qtbot.waitUntil(lambda: "Sailmaker Lane <Repairs>" in statement.preview.toPlainText())
    assert "1 Slipway" in statement.preview.toPlainText()
    path = tmp_path / "statement.html"
    statement.save(path)
    qtbot.waitUntil(path.exists)
    assert "data:image/png;base64," in path.read_text()
    for damaged in (b"<svg xmlns='http://www.w3.org/2000/svg'/>", b""):
        (tmp_path / "mark.png").write_bytes(damaged)
        on_demo.right.show_lens(LensName.STATEMENT)
        settle(qtbot, on_demo)
        qtbot.waitUntil(
            lambda: statement._statement and not statement._statement.letterhead.mark_address
        )


def test_what_goes_into_the_statement_and_in_which_language_is_chosen(
    qtbot, on_demo, tmp_path, monkeypatch
):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    press(qtbot, on_demo, "6")
    statement = on_demo.right.statement
    shown, button = statement.preview.toPlainText, statement.style_button
    qtbot.waitUntil(lambda: "Every boot" in shown())
    assert button.languages[""].isChecked()
    button.parts["boots"].trigger()
    qtbot.waitUntil(lambda: "Every boot" not in shown())
    assert "Every startup entry" in shown()
    starts = [start.svg for start in statement._statement.starts]
    assert len(starts) == 2
    assert all("Brassrail Till" in svg and "<image" not in svg for svg in starts)
    assert "Lanternprint Agent" in starts[0]
    assert "Lanternprint Agent" not in starts[1], "it was switched off"
    button.parts["starts"].trigger()
    qtbot.waitUntil(lambda: "What worked while it started" not in shown())
    assert statement._statement.starts == ()
    button.languages["de"].trigger()
    qtbot.waitUntil(lambda: "Ihr PC ist 22 s früher bereit: 55 s statt 77 s" in shown())
    assert "What was done" not in shown()
    button.parts["details"].trigger()
    qtbot.waitUntil(lambda: "Alle Starteinträge" not in shown())
    qtbot.waitUntil(lambda: not button.parts["entries"].isEnabled())
    assert on_demo.action("undo").text() == "Undo"  # the window speaks as before
    statement.save(tmp_path / "statement.html")
    qtbot.waitUntil((tmp_path / "statement.html").exists)
    written = (tmp_path / "statement.html").read_text()
    assert '<html lang="de">' in written
    assert "Was getan wurde" not in written


@pytest.mark.cold
def test_a_statement_is_there_before_what_takes_a_moment(qtbot, on_demo):
    seen = []
    statement = on_demo.right.statement
    shown = statement.preview.toPlainText
    statement.preview.textChanged.connect(
        lambda: seen.append((statement.is_whole, "Every startup entry" in shown()))
    )
    press(qtbot, on_demo, "6")
    qtbot.waitUntil(lambda: statement.is_whole)
    assert (False, False) in seen
    assert seen[-1] == (True, True)


def test_all_pcs_of_an_owner_are_one_file(qtbot, on_demo, tmp_path):
    press(qtbot, on_demo, "6")
    statement = on_demo.right.statement
    qtbot.waitUntil(lambda: statement.is_whole)
    owner = on_demo.desk.job.card.owner
    titles = [spine.card.title for spine in on_demo.desk.shelf if spine.card.owner == owner]
    assert len(titles) > 1
    assert not statement.all_pcs_button.isHidden()
    path = tmp_path / "all.html"
    statement.save_all(path)
    qtbot.waitUntil(path.exists)
    qtbot.waitUntil(lambda: str(path) in on_demo.message)
    written = path.read_text()
    assert "The PCs of Gullwing Maritime Museum" in written
    assert all(f"<td><b>{title}</b>" in written for title in titles)
    assert "1 PC to go." in [message.text for message in on_demo.desk.door.records]


def test_a_mark_that_is_gone_is_left_out(monkeypatch, tmp_path):
    from plucky_ledger.usecases.reading.statements import preferred_style

    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    keep_preferences(Preferences(workshop=" W ", mark=str(tmp_path / "none.png")))
    head = preferred_style().letterhead
    assert (head.name, head.mark, head.mark_address) == ("W", b"", "")


@pytest.mark.in_a_file
def test_the_window_knows_what_was_open_last(qtbot, on_demo, demo_path):
    keep(on_demo)
    assert last_job(demo_path) == on_demo.desk.job.number
    assert last_job(demo_path.with_name("other.ledger")) is None
    on_demo.show_shelf()
    keep(on_demo)
    assert last_job(demo_path) is None
    others = [demo_path.with_name(f"{name}.ledger") for name in ("one", "two")]
    for path in (*others, demo_path, others[0]):
        path.touch()
        remember_ledger(address_of(path))
    on_server = address_of("postgresql://me@bench.example/workshop")
    remember_ledger(on_server)
    assert recent_ledgers()[0] == on_server
    assert [one.file for one in recent_ledgers()[1:4]] == [others[0], demo_path, others[1]]
    others[1].unlink()
    assert others[1] not in [one.file for one in recent_ledgers()]


def test_high_contrast_and_what_there_is_to_say_of_the_program(qtbot, on_demo):
    try:
        choose_appearance(Appearance.CONTRAST)
        assert (ink().ink, ink().page) == ("#000000", "#FFFFFF")
    finally:
        choose_appearance(Appearance.AS_DESKTOP)
    on_demo.action("about").trigger()
    words = on_demo.panels.details.words.text()
    assert "Plucky Ledger" in words
    assert str(Path(on_demo.desk.ledger.path)) in words
