"""One sheet of lanes: what is laid out where, painted the same on screen, in SVG and in PNG."""

from dataclasses import dataclass, field
from functools import cached_property

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPainterPath, QPen, QTransform

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.replay.voices import Voice
from plucky_ledger.core.values.axes import Axis
from plucky_ledger.pages.curves import Strip, StripKind
from plucky_ledger.pages.lanes import Lane, LanesPage
from plucky_ledger.ui.drawing.pictures import painted
from plucky_ledger.ui.drawing.silhouette import (
    PALE,
    Silhouette,
    draw_pencilled,
    draw_voice,
    fine_line,
)
from plucky_ledger.ui.lenses.lanes_painter import FLAG_ROWS, LanesPainter
from plucky_ledger.ui.theme import ink, scaled_font
from plucky_ledger.wording.lanes import (
    lane_name,
    machine_captions,
    newest_reading,
    note,
    settled_figures,
    strip_title,
)

LEFT_CHARACTERS, RIGHT_CHARACTERS = 21, 11
PICTURE_WIDTH = 1200
MACHINE_LINES = 5.6
"""Height of the machine's lane, in lines of text."""
FINE_LINES = 1.4
"""Height of the fine lines of memory and processes below it."""
MOST_AIR = 14.0
"""Pixels by which lanes may be higher than their words need."""


@dataclass(frozen=True, eq=False)
class Drawn:
    """A page with its shapes, which are made when they are first painted."""

    page: LanesPage
    index_of: dict[str, int]
    """Entry id → index of its lane."""
    full_cores: float
    """Cores that full height of a lane means: as many as the largest of them had at work."""
    shapes: dict[tuple[str, float], Silhouette] = field(default_factory=dict)
    """By entry, the machine's own without one, and by the cores that full height means."""
    curves: dict[StripKind, QPainterPath] = field(default_factory=dict)

    def fine(self, strip: Strip) -> QPainterPath:
        """A fine line."""
        if strip.kind not in self.curves:
            self.curves[strip.kind] = fine_line(strip)
        return self.curves[strip.kind]

    def shape(self, lane: Lane) -> Silhouette | None:
        """A lane's silhouette."""
        return self._shape(lane.entry_id, lane.voice, self.full_cores)

    def machine(self) -> Silhouette | None:
        """The machine's silhouette."""
        voices = self.page.voices
        return self._shape("", voices.machine, float(voices.cores)) if voices else None

    def share(self, lane: Lane) -> Silhouette | None:
        """A lane's silhouette on the machine's own scale."""
        voices = self.page.voices
        return self._shape(lane.entry_id, lane.voice, float(voices.cores)) if voices else None

    def _shape(self, entry_id: str, voice: Voice | None, cores: float) -> Silhouette | None:
        voices, key = self.page.voices, (entry_id, cores)
        if voices is None or voice is None:
            return None
        if key not in self.shapes:
            self.shapes[key] = Silhouette(voice, voices.edges, cores)
        return self.shapes[key]


def drawn(page: LanesPage, scale_of: Drawn | None = None) -> Drawn:
    """Make a page ready, on the scale of another where there is one."""
    index_of = {lane.entry_id: index for index, lane in enumerate(page.lanes)}
    if scale_of is not None:
        return Drawn(page, index_of, scale_of.full_cores)
    tops = [float(lane.voice.cpu.max()) for lane in page.lanes if lane.voice is not None]
    return Drawn(page, index_of, max([1.0, *tops]))


@dataclass(frozen=True)
class Rows:
    """Where each entry's lane begins, for the chain; worked out only when asked."""

    index_of: dict[str, int]
    top: float
    height: float

    def middle(self, entry_id: str) -> float | None:
        """Middle of an entry's lane; None when it has none."""
        index = self.index_of.get(entry_id)
        return None if index is None else self.top + (index + 0.5) * self.height


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """A page, what lies over it in pencil, and the part of it that is in view."""

    front: Drawn
    behind: Drawn | None
    view: tuple[float, float]
    """Seconds at both edges."""
    width: float
    height: float
    scrolled: float = 0.0
    """Pixels the lanes are scrolled up."""
    chosen: str = ""
    """Entry whose share is inked in the machine's lane."""
    pointed_at: str = ""
    """The same while nothing is chosen by clicking."""
    moving: bool = False
    """It is zoomed, panned or scrolled just now: edges are smoothed, and what was held up is
    hatched, when it stands."""

    @cached_property
    def axis(self) -> Axis:
        """The time axis between the names and the figures."""
        metrics = QFontMetrics(scaled_font(0.88))
        left = metrics.horizontalAdvance("n" * LEFT_CHARACTERS)
        right = self.width - metrics.horizontalAdvance("0" * RIGHT_CHARACTERS)
        return Axis(*self.view, float(left), float(max(right, left + 50)))

    @cached_property
    def ruler_top(self) -> float:
        """Where the ruler begins, under the rows of flags."""
        return FLAG_ROWS * (_line_height() + 3) + 2

    @cached_property
    def machine_box(self) -> QRectF:
        """The machine's lane."""
        top = self.ruler_top + 2 * _line_height() + 6
        return QRectF(0, top, self.width, MACHINE_LINES * _line_height())

    @cached_property
    def fine_box(self) -> QRectF:
        """The fine lines of memory and processes."""
        machine = self.machine_box
        return QRectF(0, machine.bottom() + 4, self.width, FINE_LINES * _line_height())

    @cached_property
    def lanes_top(self) -> float:
        """Where the lanes begin."""
        if not self.front.page.strips:
            return self.ruler_top + 2 * _line_height() + 6
        return self.fine_box.bottom() + 6

    @cached_property
    def room(self) -> float:
        """Height left for the lanes."""
        return self.height - self.lanes_top - 2

    @cached_property
    def lane_height(self) -> float:
        """As high as their words need, or somewhat higher where there is room."""
        least = float(
            QFontMetrics(scaled_font(0.94)).height() + QFontMetrics(scaled_font(0.74)).height() + 3
        )
        lanes = len(self.front.page.lanes)
        return min(max(self.room / lanes if lanes else 0.0, least), least + MOST_AIR)

    @cached_property
    def lanes_height(self) -> float:
        """Height all lanes take together."""
        return len(self.front.page.lanes) * self.lane_height

    def row_of(self, wanted: str) -> int | None:
        """Index of the first lane whose name contains a text."""
        lanes = self.front.page.lanes
        return next((i for i, lane in enumerate(lanes) if _matches(lane, wanted)), None)

    def lane_at(self, y: float) -> Lane | None:
        """The lane at a height."""
        if y < self.lanes_top:
            return None
        index = int((y - self.lanes_top + self.scrolled) // self.lane_height)
        lanes = self.front.page.lanes
        return lanes[index] if index < len(lanes) else None

    def paint(self, painter: QPainter) -> None:
        """Paint the whole sheet."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, not self.moving)
        page = self.front.page
        brush = LanesPainter(painter, self.axis, ink(), self.width, self.lane_height, self.moving)
        bottom = min(self.height, self.lanes_top + self.lanes_height)
        brush.ruler(self.ruler_top, bottom)
        brush.stages(page.stages, self.ruler_top + _line_height() + 4, self.machine_box)
        self._paint_lanes(painter, brush, bottom)
        if page.strips:
            self._paint_machine(painter, brush)
            self._paint_fine_lines(painter, brush)
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

    def _paint_machine(self, painter: QPainter, brush: LanesPainter) -> None:
        """The machine, and in it the share of the lane that is chosen."""
        box, axis, page = self.machine_box, self.axis, self.front.page
        line = brush.line(box.center().y(), box.height() / 2 - 2, box.height() / 2 - 2)
        marked = self.chosen or self.pointed_at
        lane = page.lanes[self.front.index_of[marked]] if marked in self.front.index_of else None
        painter.save()
        painter.setClipRect(QRectF(axis.left, box.top(), axis.right - axis.left, box.height()))
        whole = self.front.machine()
        if whole is not None:
            draw_voice(painter, whole, line, ink(), PALE if lane is not None else 110)
        share = self.front.share(lane) if lane is not None else None
        if share is not None:
            draw_voice(painter, share, line, ink(), 230)
        in_pencil = self.behind.machine() if self.behind is not None else None
        if in_pencil is not None:
            draw_pencilled(painter, in_pencil, line, ink())
        painter.setPen(QPen(ink().of("ink"), 1.6))
        painter.drawLine(QPointF(axis.left, line.y), QPointF(axis.right, line.y))
        painter.restore()
        left = QRectF(2, box.top(), axis.left - 12, box.height())
        brush.left_words(left, *machine_captions(page), bold=True)
        right = QRectF(0, box.top(), self.width - 4, box.height())
        behind = self.behind.page if self.behind is not None else None
        brush.right_words(right, *settled_figures(page, behind))

    def _paint_fine_lines(self, painter: QPainter, brush: LanesPainter) -> None:
        """Memory and processes: two lines over each other, each to its own full height."""
        box, axis = self.fine_box, self.axis
        words = []
        painter.save()
        painter.setClipRect(
            QRectF(axis.left, box.top() - 1, axis.right - axis.left, box.height() + 2)
        )
        for strip in self.front.page.strips:
            if strip.kind in {StripKind.MEMORY, StripKind.PROCESSES}:
                words.append((strip_title(strip.kind), newest_reading(strip), strip.kind))
                painter.setPen(QPen(ink().of(strip.kind), 1.4))
                painter.drawPath(_fine_line(self.front.fine(strip), axis, box))
        painter.restore()
        brush.fine_words(box, words)

    def _paint_lanes(self, painter: QPainter, brush: LanesPainter, bottom: float) -> None:
        """Only the lanes in sight, then the chain through them."""
        lanes, height = self.front.page.lanes, self.lane_height
        behind, pencil = {}, self.behind
        if pencil is not None:
            behind = {lane.entry_id: lane for lane in pencil.page.lanes}
        first = int(self.scrolled // height)
        count = int(self.room // height) + 2
        axis = self.axis
        painter.save()
        painter.setClipRect(QRectF(0, self.lanes_top, self.width, self.room + 2))
        for index, lane in enumerate(lanes[first : first + count], first):
            top = self.lanes_top + index * height - self.scrolled
            other = behind.get(lane.entry_id)
            in_pencil = pencil.shape(other) if pencil is not None and other is not None else None
            gone = pencil is not None and other is None
            brush.lane(lane, top, self.front.shape(lane), in_pencil, lane.entry_id == self.chosen)
            if gone:
                brush.struck(top)
        rows = Rows(self.front.index_of, self.lanes_top - self.scrolled, height)
        painter.setClipRect(
            QRectF(axis.left, self.lanes_top, axis.right - axis.left, self.room + 2)
        )
        if self.front.page.chain is not None:
            brush.chain(self.front.page.chain, rows.middle, (self.lanes_top, bottom))
        painter.restore()


def _line_height() -> float:
    return float(QFontMetrics(scaled_font(0.8)).height())


def _fine_line(path: QPainterPath, axis: Axis, box: QRectF) -> QPainterPath:
    place = QTransform(axis.per_unit, 0, 0, -box.height(), axis.place(0.0), box.bottom())
    return place.map(path)


def _matches(lane: Lane, wanted: str) -> bool:
    return bool(wanted) and wanted.casefold() in lane_name(lane).casefold()


def picture(
    front: Drawn,
    behind: Drawn | None,
    view: tuple[float, float],
    title: str,
    ending: str,
    width: int = PICTURE_WIDTH,
) -> bytes:
    """A sheet with all its lanes as the bytes of an SVG (``ending`` ".svg") or PNG picture."""
    probe = Sheet(front=front, behind=behind, view=view, width=width, height=100.0)
    size = QSize(width, int(probe.lanes_top + probe.lanes_height + 8))
    sheet = Sheet(
        front=front,
        behind=behind,
        view=view,
        width=float(size.width()),
        height=float(size.height()),
    )
    return painted(size, sheet.paint, ending, title)
