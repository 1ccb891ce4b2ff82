"""One sheet of lanes: what is laid out where, painted the same on screen, in SVG and in PNG."""

from dataclasses import dataclass

from PySide6.QtCore import QBuffer, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetrics, QImage, QPainter, QPainterPath
from PySide6.QtSvg import QSvgGenerator

from plucky_ledger.core.axes import Axis
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.pages.lanes import Lane, LanesPage
from plucky_ledger.ui.lenses.lanes_painter import (
    BAND_HEIGHT,
    FLAG_ROWS,
    LEAST_LANE_HEIGHT,
    MOST_LANE_HEIGHT,
    STRIP_HEIGHT,
    LanesPainter,
    curve,
)
from plucky_ledger.ui.theme import ink, scaled_font
from plucky_ledger.wording.lanes import lane_name, note

LEFT_CHARACTERS = 20
RIGHT_CHARACTERS = 7
PICTURE_WIDTH = 1200


@dataclass(frozen=True)
class Drawn:
    """A page with its curves made ready for painting."""

    page: LanesPage
    curves: tuple[QPainterPath, ...]
    index_of: dict[str, int]
    """Entry id → index of its lane."""


def drawn(page: LanesPage) -> Drawn:
    """Make a page's curves ready, once for all zooming and panning."""
    index_of = {lane.entry_id: index for index, lane in enumerate(page.lanes)}
    return Drawn(page, tuple(curve(strip) for strip in page.strips), index_of)


@dataclass(frozen=True)
class Rows:
    """Where each entry's lane begins, for the chains; worked out only when asked."""

    index_of: dict[str, int]
    top: float
    height: int

    def middle(self, entry_id: str) -> float | None:
        """Middle of an entry's lane; None when it has none."""
        index = self.index_of.get(entry_id)
        return None if index is None else self.top + (index + 0.5) * self.height


@dataclass(frozen=True)
class Sheet:
    """A page, what lies behind it, and the part of it that is in view."""

    front: Drawn
    behind: Drawn | None
    view: tuple[float, float]
    """Seconds at both edges."""
    width: float
    height: float
    scrolled: float = 0.0
    """Pixels the lanes are scrolled up."""
    wanted: str = ""
    """Lanes whose name contains this are marked."""

    @property
    def axis(self) -> Axis:
        """The time axis between the names and the figures."""
        metrics = QFontMetrics(scaled_font(0.88))
        left = metrics.horizontalAdvance("n" * LEFT_CHARACTERS)
        right = self.width - metrics.horizontalAdvance("0" * RIGHT_CHARACTERS)
        return Axis(*self.view, float(left), float(max(right, left + 50)))

    @property
    def flags_height(self) -> float:
        """Height of the rows of flags."""
        return FLAG_ROWS * (QFontMetrics(scaled_font(0.8)).height() + 3) + 2

    @property
    def band_top(self) -> float:
        """Where the stage band begins, under the ruler."""
        return self.flags_height + QFontMetrics(scaled_font(0.8)).height() + 4

    @property
    def lanes_top(self) -> float:
        """Where the lanes begin, under the curves."""
        return self.band_top + BAND_HEIGHT + 10 + len(self.front.page.strips) * STRIP_HEIGHT

    @property
    def room(self) -> float:
        """Height left for the lanes."""
        return self.height - self.lanes_top - 4

    @property
    def lane_height(self) -> int:
        """As high as the room allows, within bounds."""
        lanes = len(self.front.page.lanes)
        fitting = int(self.room // lanes) if lanes else MOST_LANE_HEIGHT
        return min(max(fitting, LEAST_LANE_HEIGHT), MOST_LANE_HEIGHT)

    @property
    def lanes_height(self) -> float:
        """Height all lanes take together."""
        return len(self.front.page.lanes) * self.lane_height

    def row_of(self, wanted: str) -> int | None:
        """Index of the first lane whose name contains a text."""
        lanes = self.front.page.lanes
        return next((i for i, lane in enumerate(lanes) if _matches(lane, wanted)), None)

    def paint(self, painter: QPainter) -> None:
        """Paint the whole sheet."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        page = self.front.page
        brush = LanesPainter(painter, self.axis, ink(), self.width, self.lane_height)
        bottom = min(self.height, self.lanes_top + self.lanes_height)
        brush.ruler(self.flags_height, bottom)
        self._paint_lanes(painter, brush, bottom)
        brush.bands(page.bands, self.band_top)
        curves = self.behind.curves if self.behind else ()
        for index, (strip, path) in enumerate(zip(page.strips, self.front.curves, strict=True)):
            behind = curves[index] if index < len(curves) else None
            top = self.band_top + BAND_HEIGHT + 6 + index * STRIP_HEIGHT
            brush.strip(strip, path, top, behind)
        laid = self.behind.page.flags if self.behind else ()
        pencilled = [flag for flag in laid if flag.mark is Mark.SETTLED]
        brush.flags(page.flags, pencilled, 1, bottom)
        if sentence := note(page):
            painter.setPen(ink().of("pencil"))
            painter.setFont(scaled_font(1.0))
            # Where there are lanes it stands in the room of the flags, which such a boot lacks.
            top = 4.0 if page.lanes else self.lanes_top + 14
            painter.drawText(
                QRectF(20, top, self.width - 40, 60),
                Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap,
                sentence,
            )

    def _paint_lanes(self, painter: QPainter, brush: LanesPainter, bottom: float) -> None:
        """Only the lanes in sight, then the chains through them."""
        lanes, height = self.front.page.lanes, self.lane_height
        behind = {lane.entry_id: lane for lane in self.behind.page.lanes} if self.behind else {}
        first = int(self.scrolled // height)
        count = int(self.room // height) + 2
        painter.save()
        painter.setClipRect(QRectF(0, self.lanes_top, self.width, self.room + 4))
        for index, lane in enumerate(lanes[first : first + count], first):
            top = self.lanes_top + index * height - self.scrolled
            if _matches(lane, self.wanted):
                brush.highlight(top)
            brush.lane(lane, top, behind.get(lane.entry_id))
        rows = Rows(self.front.index_of, self.lanes_top - self.scrolled, height)
        axis = self.axis
        painter.setClipRect(
            QRectF(axis.left, self.lanes_top, axis.right - axis.left, self.room + 4)
        )
        for chain in self.front.page.chains:
            brush.chain(chain, rows.middle, (self.lanes_top, bottom))
        painter.restore()


def _matches(lane: Lane, wanted: str) -> bool:
    return bool(wanted) and wanted.casefold() in lane_name(lane).casefold()


def picture(front: Drawn, behind: Drawn | None, view: tuple[float, float], ending: str) -> bytes:
    """A sheet with all its lanes as the bytes of an SVG (``ending`` ".svg") or PNG picture."""
    lanes = len(front.page.lanes) * MOST_LANE_HEIGHT
    probe = Sheet(front, behind, view, PICTURE_WIDTH, 100.0)
    size = QSize(PICTURE_WIDTH, int(probe.lanes_top + lanes + 8))
    sheet = Sheet(front, behind, view, float(size.width()), float(size.height()))
    buffer = QBuffer()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    if ending == ".svg":
        generator = QSvgGenerator()
        generator.setOutputDevice(buffer)
        generator.setSize(size)
        generator.setViewBox(QRectF(0, 0, size.width(), size.height()))
        generator.setTitle("Lanes of a boot")
        painter = QPainter(generator)
        sheet.paint(painter)
        painter.end()
    else:
        image = QImage(size, QImage.Format.Format_RGB32)
        image.fill(ink().of("page"))
        painter = QPainter(image)
        sheet.paint(painter)
        painter.end()
        image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(buffer.data().data())
