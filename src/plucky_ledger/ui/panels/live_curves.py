"""The four curves of a boot while it is being recorded."""

from html import escape

import pyqtgraph as pg

from plucky_ledger.pages.curves import StripKind
from plucky_ledger.pages.live import LiveBoot
from plucky_ledger.ui.theme import ink
from plucky_ledger.wording.lanes import newest_reading, strip_title

LABEL_WIDTH = 120


class LiveCurves(pg.GraphicsLayoutWidget):
    """The four curves so far, one above the other."""

    def __init__(self) -> None:
        super().__init__()
        self._curves = {}
        for row, kind in enumerate(StripKind):
            label = self.addLabel("", row=row, col=0, justify="left")
            label.setFixedWidth(LABEL_WIDTH)
            plot = self.addPlot(row=row, col=1)
            plot.setMouseEnabled(False, False)
            plot.hideButtons()
            plot.setMenuEnabled(False)
            plot.setYRange(0, 1, padding=0.02)
            plot.getAxis("left").setTicks([[]])
            plot.getAxis("bottom").setStyle(showValues=row == len(StripKind) - 1)
            self._curves[kind] = (plot, plot.plot(stepMode="center", fillLevel=0), label)
        self.dress()

    def dress(self) -> None:
        """Take the colours of the scheme."""
        self.setBackground(ink().page)
        for kind, (plot, curve, _label) in self._curves.items():
            colour = ink().of(kind)
            curve.setPen(colour)
            fill = ink().of(kind)
            fill.setAlpha(60)
            curve.setBrush(fill)
            for side in ("left", "bottom"):
                plot.getAxis(side).setPen(ink().rule)
                plot.getAxis(side).setTextPen(ink().pencil)

    def show_live(self, live: LiveBoot) -> None:
        """Show what has been recorded so far."""
        for strip in live.strips:
            _plot, curve, label = self._curves[strip.kind]
            curve.setData(strip.edges, strip.heights)
            title, reading = escape(strip_title(strip.kind)), escape(newest_reading(strip))
            label.setText(f"<b>{title}</b><br>{reading}", color=ink().of(strip.kind).name())

    def clear_curves(self) -> None:
        """Forget the boot before."""
        for _plot, curve, label in self._curves.values():
            curve.setData([0.0, 1.0], [0.0])
            label.setText("")
