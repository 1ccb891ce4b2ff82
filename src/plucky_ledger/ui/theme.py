"""Colours, type and the style sheet, light and dark."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QColor, QFont, QFontMetrics, QGuiApplication, QPalette
from PySide6.QtWidgets import QApplication, QWidget

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.wording.language import N_

DECISION_COLOURS = {
    Decision.KEEP: "saved",
    Decision.OFF: "lost",
    Decision.LATER: "disk",
    Decision.LOOK_UP: "pencil",
}
"""Colours of the stamps; the word or key in them says the same."""
ICONS = (Path(__file__).parent / "icons").as_posix()


@dataclass(frozen=True, kw_only=True)
class Ink:
    """The colours of one scheme."""

    paper: str
    page: str
    rule: str
    """Lines that only divide."""
    edge: str
    """Edges of what can be pressed or filled in, and what cannot be now."""
    faint: str
    ink: str
    pencil: str
    saved: str
    lost: str
    wash: str
    cpu: str
    disk: str
    memory: str
    processes: str

    def of(self, name: str) -> QColor:
        """A colour by its field name."""
        return QColor(getattr(self, name))


LIGHT = Ink(
    paper="#F5F2E8",
    page="#FCFAF4",
    rule="#CFC7B0",
    edge="#857E6A",
    faint="#E6E0CF",
    ink="#22302E",
    pencil="#5F5A4D",
    saved="#1F5B4A",
    lost="#A3342A",
    wash="#EBDCA8",
    cpu="#986708",
    disk="#3F6480",
    memory="#5F6C1F",
    processes="#8A3D5F",
)
DARK = Ink(
    paper="#1C1E1D",
    page="#242725",
    rule="#474B47",
    edge="#868B84",
    faint="#343834",
    ink="#E6E3D8",
    pencil="#B9B4A4",
    saved="#7FC8AE",
    lost="#F79C90",
    wash="#4A4326",
    cpu="#E0B04E",
    disk="#8DB4D2",
    memory="#B4C465",
    processes="#D58AAE",
)
CONTRAST = Ink(
    paper="#FFFFFF",
    page="#FFFFFF",
    rule="#000000",
    edge="#000000",
    faint="#6E6E6E",
    ink="#000000",
    pencil="#333333",
    saved="#00452F",
    lost="#8E0B00",
    wash="#FFE680",
    cpu="#8A5200",
    disk="#00417A",
    memory="#3E4A00",
    processes="#6E0038",
)


TEXT_SIZES = (100, 115, 130, 150, 175, 200)
"""Per cent of the desktop's own."""


class Appearance(StrEnum):
    """Light or dark."""

    AS_DESKTOP = "as_desktop"
    LIGHT = "light"
    DARK = "dark"
    CONTRAST = "contrast"
    """High contrast: black on white, and edges that are seen."""


APPEARANCES = {
    Appearance.AS_DESKTOP: N_("Like the desktop"),
    Appearance.LIGHT: N_("Light"),
    Appearance.DARK: N_("Dark"),
    Appearance.CONTRAST: N_("High contrast"),
}


@dataclass
class _Chosen:
    appearance: Appearance = Appearance.AS_DESKTOP
    desktop_in_contrast: bool = False
    """The desktop wants high contrast."""


_chosen = _Chosen()
_on_paper = ContextVar("on_paper", default=False)


SMALLEST_POINTS = 9.0
"""No text is smaller, unless the desktop's own is."""


def ink() -> Ink:
    """The colours of the scheme that the user has chosen, or the desktop; the light ones for what
    is painted for paper.
    """
    if _on_paper.get():
        return LIGHT
    if _chosen.appearance is Appearance.CONTRAST:
        return CONTRAST
    if _chosen.appearance is Appearance.AS_DESKTOP:
        if _chosen.desktop_in_contrast:
            return CONTRAST
        dark = QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark
    else:
        dark = _chosen.appearance is Appearance.DARK
    return DARK if dark else LIGHT


@contextmanager
def on_paper() -> Iterator[None]:
    """What is painted within is for paper, however the window looks."""
    token = _on_paper.set(True)
    try:
        yield
    finally:
        _on_paper.reset(token)


def title_font(scale: float = 1.7) -> QFont:
    """The serif for the job's title and the big answer."""
    font = QFont(QApplication.font())
    font.setFamilies(["DejaVu Serif", "Noto Serif", "Liberation Serif", "serif"])
    font.setPointSizeF(font.pointSizeF() * scale)
    return font


def scaled_font(scale: float, bold: bool = False) -> QFont:
    """The system's font, larger or smaller; never smaller than can be read."""
    font = QFont(QApplication.font())
    own = font.pointSizeF()
    font.setPointSizeF(max(own * scale, min(own, SMALLEST_POINTS)))
    font.setBold(bold)
    return font


def digits_wide(count: float) -> int:
    """Width of so many digits, in pixels: columns grow with the text in them."""
    return round(QFontMetrics(QApplication.font()).horizontalAdvance("0") * count)


def named(name: str) -> QWidget:
    """A plain widget the style sheet knows by name."""
    widget = QWidget()
    widget.setObjectName(name)
    return widget


def settings() -> QSettings:
    """What this user has chosen of how it looks."""
    return QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, "plucky-ledger", "ui")


def appearance() -> Appearance:
    """What this user has chosen; as the desktop, where they never did."""
    kept = str(settings().value("appearance", Appearance.AS_DESKTOP.value))
    return next((one for one in Appearance if one.value == kept), Appearance.AS_DESKTOP)


def choose_appearance(wanted: Appearance) -> None:
    """Look so from now on, and at the next start."""
    settings().setValue("appearance", wanted.value)
    show_in(wanted)


def text_size() -> int:
    """The size of text that this user has chosen, in per cent of the desktop's."""
    kept = str(settings().value("text size", TEXT_SIZES[0]))
    return next((size for size in TEXT_SIZES if str(size) == kept), TEXT_SIZES[0])


def choose_text_size(wanted: int) -> None:
    """Write so large from the next start on."""
    settings().setValue("text size", wanted)


def show_in(wanted: Appearance) -> None:
    """Look so from now on."""
    _chosen.appearance = wanted
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    _put_on(app)


def dress(app: QApplication) -> None:
    """Put the scheme on the application; again whenever the desktop or the user changes it."""
    app.setStyle("Fusion")
    if (size := text_size()) != TEXT_SIZES[0]:
        app.setFont(scaled_font(size / 100))
    _chosen.appearance = appearance()
    hints = app.styleHints()
    hints.colorSchemeChanged.connect(lambda _scheme: _put_on(app))
    if not hasattr(Qt, "ContrastPreference"):  # Qt before 6.10 does not know the desktop's wish
        follow_the_desktop(app, in_contrast=False)
        return
    high = Qt.ContrastPreference.HighContrast
    wishes = hints.accessibility()
    wishes.contrastPreferenceChanged.connect(
        lambda wanted: follow_the_desktop(app, in_contrast=wanted is high)
    )
    follow_the_desktop(app, in_contrast=wishes.contrastPreference() is high)


def follow_the_desktop(app: QApplication, *, in_contrast: bool) -> None:
    """In high contrast where the desktop wants it, unless the user has chosen otherwise here."""
    _chosen.desktop_in_contrast = in_contrast
    _put_on(app)


@contextmanager
def dressed_afterwards() -> Iterator[None]:
    """What is made within gets the style sheet at the end, once.

    With a sheet on, every widget is gone through again each time that it, or what it is in, is put
    into something else: half the time that a window took to be made.
    """
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    sheet = app.styleSheet()
    app.setStyleSheet("")
    try:
        yield
    finally:
        app.setStyleSheet(sheet)


def _put_on(app: QApplication) -> None:
    colours = ink()
    palette = QPalette()
    for role, name in (
        (QPalette.ColorRole.Window, "paper"),
        (QPalette.ColorRole.Base, "page"),
        (QPalette.ColorRole.AlternateBase, "paper"),
        (QPalette.ColorRole.Button, "page"),
        (QPalette.ColorRole.WindowText, "ink"),
        (QPalette.ColorRole.Text, "ink"),
        (QPalette.ColorRole.ButtonText, "ink"),
        (QPalette.ColorRole.Highlight, "wash"),
        (QPalette.ColorRole.HighlightedText, "ink"),
        (QPalette.ColorRole.PlaceholderText, "pencil"),
        (QPalette.ColorRole.ToolTipBase, "page"),
        (QPalette.ColorRole.ToolTipText, "ink"),
        (QPalette.ColorRole.Link, "saved"),
    ):
        palette.setColor(role, colours.of(name))
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, colours.of("rule"))
    app.setPalette(palette)
    app.setStyleSheet(_sheet(colours))


def _sheet(c: Ink) -> str:
    check = "check-dark" if c is DARK else "check"
    off = c.faint if c is CONTRAST else c.edge  # what cannot be pressed now is paler
    return f"""
QMainWindow, QMenuBar {{ background: {c.paper}; }}
QMenuBar::item {{ padding: 5px 9px; background: transparent; }}
QMenuBar::item:selected, QMenu::item:selected {{ background: {c.wash}; color: {c.ink}; }}
QMenu {{ background: {c.page}; border: 1px solid {c.rule}; }}
QMenu::item {{ padding: 5px 24px 5px 14px; }}
QMenu::item:disabled {{ color: {off}; }}
QMenu::separator {{ height: 1px; background: {c.faint}; margin: 4px 0; }}
QWidget#head {{ background: {c.paper}; border-bottom: 1px solid {c.rule};
    border-top: 1px solid {c.faint}; }}
QWidget#page, QWidget#bookPage, QListView, QTableView, QTextBrowser, QScrollArea,
QScrollArea > QWidget > QWidget {{ background: {c.page}; border: none; }}
QWidget#bookFoot {{ background: {c.paper}; border-top: 1px solid {c.rule}; }}
QWidget#bookHead {{ background: {c.page}; border-bottom: 1px solid {c.rule}; }}
QWidget#lensHead {{ background: {c.page}; border-bottom: 1px solid {c.rule}; }}
QWidget#side {{ border-left: 1px solid {c.rule}; background: {c.page}; }}
QWidget#plan {{ border: 1px dashed {c.pencil}; background: {c.page}; }}
QFrame[rule="true"] {{ background: {c.faint}; }}
QLabel[quiet="true"] {{ color: {c.pencil}; }}
QLabel[bad="true"] {{ color: {c.lost}; }}
QWidget#message[said="true"] {{ background: {c.wash}; }}
QWidget#message {{ border-top: 1px solid {c.rule}; }}
QPushButton {{ background: {c.page}; color: {c.ink}; border: 1px solid {c.ink}; border-radius: 3px;
    padding: 5px 12px; }}
QPushButton:hover {{ background: {c.wash}; }}
QPushButton:focus {{ border: 2px solid {c.saved}; padding: 4px 11px; }}
QPushButton:disabled {{ border-color: {off}; color: {off}; }}
QPushButton[main="true"] {{ background: {c.ink}; color: {c.page}; font-weight: bold; }}
QPushButton[main="true"]:hover {{ background: {c.saved}; }}
QPushButton[main="true"]:focus {{ border: 2px solid {c.cpu}; }}
QPushButton[main="true"]:disabled {{ background: {c.paper}; border-color: {off};
    color: {off}; }}
QPushButton[lens="true"] {{ border: none; border-bottom: 3px solid transparent; border-radius: 0;
    padding: 7px 4px; color: {c.pencil}; background: transparent; margin-right: 12px; }}
QPushButton[lens="true"]:checked {{ color: {c.ink}; font-weight: bold;
    border-bottom: 3px solid {c.ink}; }}
QPushButton[lens="true"]:focus {{ background: {c.wash}; }}
QPushButton[fold="true"] {{ border: none; color: {c.pencil}; background: transparent;
    padding: 3px 4px; text-align: left; }}
QPushButton[fold="true"]:focus {{ background: {c.wash}; }}
QComboBox {{ background: {c.page}; border: 1px solid {c.edge}; border-radius: 3px;
    padding: 3px 6px; }}
QComboBox[flat="true"] {{ border: none; border-bottom: 1px dotted {c.pencil}; border-radius: 0;
    font-weight: bold; padding: 2px 2px; }}
QComboBox::drop-down {{ border: none; width: 18px; }}
QComboBox::down-arrow {{ image: url({ICONS}/down.svg); width: 10px; height: 10px; }}
QComboBox:focus, QLineEdit:focus, QPlainTextEdit:focus, QAbstractSpinBox:focus {{
    border: 2px solid {c.saved}; }}
QComboBox QAbstractItemView {{ background: {c.page}; border: 1px solid {c.rule};
    selection-background-color: {c.wash}; selection-color: {c.ink}; }}
QLineEdit, QPlainTextEdit, QAbstractSpinBox {{ background: {c.page};
    border: 1px solid {c.edge}; border-radius: 3px; padding: 4px 6px; }}
QLineEdit:disabled, QComboBox:disabled, QAbstractSpinBox:disabled {{ background: {c.paper};
    border-color: {off}; color: {off}; }}
QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ border: none; width: 18px; }}
QAbstractSpinBox::up-arrow {{ image: url({ICONS}/up.svg);
    width: 10px; height: 10px; }}
QAbstractSpinBox::down-arrow {{ image: url({ICONS}/down.svg);
    width: 10px; height: 10px; }}
QTextBrowser, QScrollArea {{ border: 1px solid {c.page}; }}
QTableView:focus, QTextBrowser:focus, QScrollArea:focus {{ border: 1px solid {c.saved}; }}
QHeaderView::section {{ background: {c.page}; color: {c.pencil}; border: none;
    border-bottom: 1px solid {c.rule}; padding: 4px 6px; }}
QHeaderView::up-arrow, QHeaderView::down-arrow {{ subcontrol-origin: padding;
    subcontrol-position: center left; width: 8px; height: 8px; }}
QHeaderView::up-arrow {{ image: url({ICONS}/up.svg); }}
QHeaderView::down-arrow {{ image: url({ICONS}/down.svg); }}
QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
QScrollBar::handle {{ background: {c.edge}; border-radius: 4px; margin: 1px; min-height: 24px;
    min-width: 24px; }}
QScrollBar::handle:hover {{ background: {c.pencil}; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QTableView {{ gridline-color: {c.faint}; selection-background-color: {c.wash};
    selection-color: {c.ink}; }}
QSplitter::handle {{ background: {c.rule}; }}
QProgressBar {{ border: 1px solid {c.edge}; background: {c.page}; height: 8px;
    color: transparent; }}
QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {c.edge}; border-radius: 2px;
    background: {c.page}; }}
QCheckBox::indicator:checked {{ background: {c.ink}; border-color: {c.ink};
    image: url({ICONS}/{check}.svg); }}
QCheckBox:focus {{ background: {c.wash}; }}
QProgressBar::chunk {{ background: {c.saved}; }}
"""
