"""What is read out to somebody who sees no window, over the desktop's accessibility bus."""

import re
import time
from contextlib import suppress
from dataclasses import dataclass

import pytest

from tests.helpers.screen_reader import CAN_BE_READ, LACKS, Desktop, NotThere

pytestmark = pytest.mark.skipif(not CAN_BE_READ, reason=LACKS)
MARKUP = re.compile(r"<[a-z/]|&[#a-z]+;")
BARE_FIGURE = re.compile(r"[−-]?[\d.,]+")
LENSES = ["Lanes", "Entries", "Load", "Verdict", "Why", "Statement"]
PAGES = {
    "Job": ["Job shelf", "Take in another PC…", "Job card…", "Take it in again…", "Preferences…"],
    "Record": [
        "Record the next boots, or read past ones…",
        "Night shift…",
        "Time with the stopwatch…",
        "Type figures in…",
        "Correct the marks…",
        "Set this boot aside…",
    ],
    "Entries": ["Look-up list…", "Type entries in…", "Grades…"],
    "Book": ["Write down changes…", "Which change did it"],
    "Help": ["Manual"],
}
HOLD_PARTS = {"combo box", "list", "table", "row"}
UNNAMED = {
    "scroll bar",
    "menu bar",
    "splitter",
    "panel",
    "filler",
    "layered pane",
    "label",
    "cell",
    "push button",
    "grip",
    "separator",
}
"""What may have no name where nothing stands in it, or it only holds other things together."""


@pytest.fixture
def desktop(tmp_path):
    """A desktop with a screen reader's view."""
    shown = Desktop(tmp_path)
    yield shown
    shown.close()


def menu_item(window, menu, name):
    (popup,) = window.find("menu item", menu).children
    return next(item for item in popup.children if item.name.startswith(name))


@dataclass(frozen=True)
class ReadOut:
    """One thing as it would be read out."""

    role: str
    name: str
    about: str
    parts: tuple[str, ...]
    focusable: bool


def read_out(page):
    """Everything on a page; what vanishes meanwhile is left out."""
    for thing in page.all():
        with suppress(NotThere):
            role = thing.role
            parts = [part.name for part in thing.children] if role in HOLD_PARTS else ()
            focusable = role in {"filler", "button"} and thing.has("focusable")
            yield ReadOut(role, thing.name, thing.description, tuple(parts), focusable)


def faults(page):
    """What is wrong with how a page would be read out; what is worked out for it is there: it reads
    the same twice, half a second apart.
    """
    before: list[ReadOut] = []
    while before != (now := list(read_out(page))):
        before = now
        time.sleep(0.5)
    for thing in now:
        role, name, about, parts = thing.role, thing.name, thing.about, thing.parts
        needs_name = role not in UNNAMED or thing.focusable
        wrong = {
            "a fault of ours": "internal error" in name,
            "markup": MARKUP.search(name + about) is not None,
            "said twice": bool(about) and about.casefold().strip() == name.casefold().strip(),
            "no name": not name and needs_name,
            "no unit": role == "cell" and BARE_FIGURE.fullmatch(name) is not None,
            "named by its value, or by a cell": name in parts,
        }
        yield from (f"{what}: {role} “{name}” ({about})" for what, so in wrong.items() if so)


def test_every_view_is_read_out_whole_once_and_without_markup(desktop, demo_path):
    window = desktop.open("--ledger", demo_path).children[0]
    tabs = desktop.wait(lambda: window.find("page tab list", "Views"))
    assert [tab.name for tab in tabs.children] == LENSES
    found = {}
    for tab in tabs.children:
        tab.press()
        desktop.wait(lambda tab=tab: tab.has("selected"))
        found[tab.name] = list(faults(window))
    for menu, pages in PAGES.items():
        for page in pages:
            menu_item(window, menu, page).press()
            found[page] = list(faults(window))
            if page == "Job shelf":
                window.find("list", "Jobs").choose("0417")
                window.find("list", "Jobs").focus()
                desktop.key("Return")
                desktop.wait(lambda: window.find("list", "The book"))
            desktop.key("Escape")
    assert {page: some for page, some in found.items() if some} == {}


def test_pictures_are_tables_and_tell_their_figures(desktop, demo_path):
    window = desktop.open("--ledger", demo_path).children[0]
    line = desktop.wait(lambda: window.find("list item", "Swap file doubled, struck out"))
    assert line.description == "58.9 s · 57.7 s · 56.9 s"
    lanes = desktop.wait(lambda: window.find("table", "Timeline of the boot"))
    row = desktop.wait(lambda: next(row for row in lanes.children if row.name == "Harbour Guard"))
    cells = desktop.wait(lambda: [cell.name for cell in row.children if "costs" in cell.name])
    assert cells == ["costs 9.1 s"]
    row.press()
    said = desktop.wait(desktop.heard)
    assert any(line.startswith("Harbour Guard: starts from") for line in said)
    window.find("page tab", "Verdict").press()
    dots = desktop.wait(lambda: window.find("table", "Boots before and after in Settled"))
    sides = {side.name: [cell.name for cell in side.children] for side in dots.children}
    assert sides["Before"][0] == "typical 57.8 s"
    assert len(sides["Before"]) == 4
    assert all(cell.endswith(" s") for cells in sides.values() for cell in cells)
    window.find("page tab", "Why").press()
    curve = desktop.wait(lambda: window.find("table", "disk, "))
    assert re.fullmatch(r"\d+ s to \d+ s", curve.children[-1].name)
    assert all(row.children[0].name.endswith(" %") for row in curve.children)
    window.find("page tab", "Since when").press()
    trend = desktop.wait(lambda: window.find("table", "The boots over time"))
    assert len(trend.children) > 20
    assert any("s" in cell.name for cell in trend.children[0].children)
    menu_item(window, "Book", "Which change").press()
    effects = r"−\d+\.\d \(−\d+\.\d to −\d+\.\d\) s"
    desktop.wait(lambda: any(re.fullmatch(effects, name) for name in labels(window)))


def test_a_whole_job_is_done_by_it_alone(desktop, demo_path, tmp_path):
    window = desktop.open("--ledger", demo_path).children[0]
    # What it costs, and a decision with its reason.
    desktop.wait(lambda: window.find("page tab", "Entries")).press()
    desktop.wait(lambda: window.find("cell", "3.6 s, "))
    entries = window.find("table", "Startup entries")
    entries.choose("TideClock Sync")
    assert entries.chosen[1:] == ["3.6 s, 2.2 to 5.0", "93 MB", "look up"]
    menu_item(window, "Entries", "Switch off").press()
    desktop.wait(lambda: entries.chosen[3:] == ["switch off"])
    reason = window.find("text", "Reason")
    reason.write("nobody reads that calendar")
    reason.focus()
    desktop.key("Return")
    desktop.wait(lambda: window.find("list item", "Pencilled: Deckhand Updater switched off and 2"))
    # Posted: what it will do is there before it is done.
    window.find("push button", "Post…").press()
    desktop.wait(lambda: window.find("label", "→ TideClock Sync switched off"))
    assert list(faults(window)) == []
    last(window, "push button", "Post").press()
    said = desktop.wait(desktop.heard)
    assert any("Posted: 3 entries are switched" in line for line in said)
    # Three boots, each told of while it is recorded: its own marks, and none of the one before.
    for boots in (1, 2, 3):
        window.find("push button", "Record a boot").press()
        desktop.wait(lambda: window.find("push button", "Restart and record")).press()
        desktop.wait(lambda n=boots: in_the_book(window, n))
        marks = [line for line in desktop.heard() if line.startswith("Marks: ")]
        assert len([line for line in marks if "desktop shown" in line]) == 1, marks
    # The answer, and the statement for the owner.
    window.find("page tab", "Verdict").press()
    window.find("combo box", "Book kept in").choose("CPU work")
    desktop.wait(lambda: any(" less" in name and "Saved." in name for name in labels(window)))
    menu_item(window, "Book", "Save the statement as HTML").press()
    program = desktop.wait(lambda: window.parent.children[1:])[0]
    name = desktop.wait(lambda: program.find("text"))
    name.write(str(tmp_path / "statement.html"))
    program.find("push button", "Save").press()
    desktop.wait((tmp_path / "statement.html").exists)
    assert any("statement" in line for line in desktop.wait(desktop.heard))


def labels(window):
    return [thing.name for thing in window.all() if thing.role == "label"]


def last(window, role, name):
    return [thing for thing in window.all() if thing.role == role and thing.name == name][-1]


def in_the_book(window, boots):
    """The newest line holds so many boots, and no panel stands in the way."""
    lines = [line.name for line in window.find("list", "The book").children if line.has("showing")]
    counted = f"{boots} boot{'s' if boots > 1 else ''}"
    there = any("Deckhand Updater" in line and counted in line for line in lines)
    try:
        window.find("push button", "Stop and save")
    except NotThere:
        return there
    return False
