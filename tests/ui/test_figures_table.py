"""A table of figures in the window: what columns mean is chosen, what rows become is seen."""

from PySide6.QtCore import Qt
from PySide6.QtPrintSupport import QPrinter

from plucky_ledger.core.boots.boot import How


def test_columns_are_chosen_and_the_boots_seen_first(on_demo, qtbot, tmp_path):
    path = tmp_path / "boots.csv"
    path.write_text("When,Until calm (ms)\n2026-11-10 08:00,61200\nnever,5\n,63000\n")
    before = len(on_demo.desk.job.boots)
    on_demo.panels.show_figures_table(path)
    panel = on_demo.panels.figures_table
    qtbot.waitUntil(lambda: len(panel.choices) == 2)
    becomes = 0
    assert not panel.take_button.isEnabled()  # no heading that is known
    panel.choices[1].setCurrentIndex(panel.choices[1].findText("Settled, ms"))
    assert panel.view.item(1, becomes).text() == "10 Nov 2026, 08:00 · Settled 61.2 s"
    assert "no date with time" in panel.view.item(2, becomes).text()
    assert panel.take_button.text() == "Take in 2 boots"
    panel.take_button.click()
    qtbot.waitUntil(lambda: "2 boots are in the book" in on_demo.message)
    assert not panel.isVisible()
    boots = on_demo.desk.job.boots
    assert len([boot for boot in boots if boot.how is How.TYPED]) == 2
    assert len(boots) == before + 2
    (tmp_path / "none.csv").write_bytes(b"")
    panel.begin(tmp_path / "none.csv")
    qtbot.waitUntil(lambda: "no table of figures" in on_demo.message)


def test_a_card_is_typed_in_as_it_is_read(on_demo, qtbot, tmp_path):
    before = len(on_demo.desk.job.boots)
    on_demo.action("card").trigger()
    panel = on_demo.panels.hand_card
    assert not panel.take_button.isEnabled()
    for column, text in enumerate(["2026-11-20 08:00", "30", "35", "50", "1:01.5"]):
        panel.view.item(0, column).setText(text)
    panel.view.item(1, 1).setText("quick")
    assert panel.view.item(0, 5).text() == "20 Nov 2026, 08:00 · Ready 56.5 s"
    assert panel.view.item(1, 5).text() == "column Sign-in shown: no number"
    assert not panel.view.item(0, 5).flags() & Qt.ItemFlag.ItemIsEditable
    printer = QPrinter()
    printer.setOutputFileName(str(tmp_path / "card.pdf"))
    panel.print_to(printer)
    assert (tmp_path / "card.pdf").read_bytes().startswith(b"%PDF")
    panel.save(tmp_path / "card.html")
    qtbot.waitUntil((tmp_path / "card.html").exists)
    assert panel.take_button.text() == "Take in 1 boot"
    panel.take_button.click()
    qtbot.waitUntil(lambda: len(on_demo.desk.job.boots) == before + 1)
    assert not panel.isVisible()
    on_demo.action("card").trigger()
    assert panel.view.item(0, 0).text() == ""
