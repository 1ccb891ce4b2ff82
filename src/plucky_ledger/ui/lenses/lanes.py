"""The Lanes lens: one boot as voices, as a table by one key, with decisions taken in it."""

from operator import is_
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
)

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.replay.voices import Voices
from plucky_ledger.core.values.recent import Recent
from plucky_ledger.pages.lane_order import LaneOrder, folded, ordered, parts_of_system
from plucky_ledger.pages.lanes import NO_FACTS, LaneFacts, LanesPage, lane_facts, lanes_page
from plucky_ledger.pages.lanes_table import figures_of
from plucky_ledger.ui.accessible.announcing import announce
from plucky_ledger.ui.choices import Chooser
from plucky_ledger.ui.deciding import Deciding
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lenses.lanes_canvas import LanesCanvas
from plucky_ledger.ui.lenses.lanes_table import LanesTable
from plucky_ledger.ui.lenses.lens import Lens
from plucky_ledger.ui.saving_pictures import ask_and_save_chart, save_chart
from plucky_ledger.ui.search_field import SearchField
from plucky_ledger.ui.text import FoldButton, Text
from plucky_ledger.ui.theme import digits_wide
from plucky_ledger.usecases.reading.voices import boot_voices
from plucky_ledger.wording.lanes import (
    ORDERS,
    boot_in_words,
    expected_in_words,
    fold_line,
    lane_in_words,
    legend,
)
from plucky_ledger.wording.language import say

if TYPE_CHECKING:
    from plucky_ledger.core.replay.preview import Preview
    from plucky_ledger.wording.basis import Basis

KEPT_VOICES = 4


class LanesLens(Lens):
    """Shows the chosen boot of the desk."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._deciding = Deciding(desk)
        self.order = LaneOrder.COST
        self._voices: Recent[str, tuple[Analysis, Voices | None]] = Recent(KEPT_VOICES)
        """Of the boots looked at last, by their names."""
        self._asked: tuple[Job, tuple[Boot, ...], Boot] | None = None
        """What was asked last about entries and preview."""
        self._facts = NO_FACTS
        self._preview: Preview | None = None
        desk.boot_changed.connect(self._ask_early)
        self._made_of: tuple[object, ...] = ()
        """What the page in sight was made of."""
        self.canvas = LanesCanvas()
        self.canvas.chosen_changed.connect(self._show_chosen)
        self.table = LanesTable()
        self.table.selectionModel().currentRowChanged.connect(
            lambda *_: self.canvas.choose(self.table.chosen)
        )
        self.order_box = self._order_chooser()
        self._views = QStackedWidget()
        self._views.addWidget(self.canvas)
        self._views.addWidget(self.table)
        self.search = SearchField(say("Find a lane"), say("find a lane"))
        self.search.setMinimumWidth(digits_wide(11))
        self.search.setMaximumWidth(150)
        self.search.textChanged.connect(self.canvas.look_for)
        self.fold = FoldButton()
        self.fold.toggled.connect(self.refresh)
        self.as_table = QPushButton(say("As a table"))
        self.as_table.setCheckable(True)
        self.as_table.setAccessibleName(say("As a table"))
        self.as_table.toggled.connect(self._show_table)
        self.words, self._about = Text(), Text()
        self._lay_out()

    def _order_chooser(self) -> Chooser:
        box = Chooser(say("Order of the lanes"), flat=True)
        for order, words in ORDERS.items():
            box.addItem(say(words), order)
        box.activated.connect(lambda at: self.order_by(LaneOrder(box.itemData(at))))
        return box

    def _lay_out(self) -> None:
        save = QPushButton(say("Save picture…"))
        save.clicked.connect(lambda: ask_and_save_chart(self._desk, self.canvas))
        foot = QHBoxLayout()
        foot.addWidget(self.order_box)
        foot.addWidget(self.search)
        foot.addWidget(self.fold)
        foot.addStretch(1)
        foot.addWidget(self.as_table)
        foot.addWidget(save)
        for text in (self._about, self.words):
            text.setProperty("quiet", True)
            text.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 4, 8, 6)
        layout.setSpacing(3)
        layout.addWidget(self._views, 1)
        layout.addLayout(foot)
        layout.addWidget(self._about)
        layout.addWidget(self.words)

    def refresh(self) -> None:
        """Show the boot that is chosen now."""
        boot, job = self._desk.boot, self._desk.job
        self.words.setText(boot_in_words(boot, job.boots if job else ()) if boot else "")
        if boot is None or job is None:
            self._made_of = ()
            self._show(None, None)
            return
        analysis, behind = self._desk.analysis(boot), self._desk.analysis(self._desk.behind)
        if analysis is None:
            return
        self._ask(job, boot)
        voices = self._voices_of(analysis)
        behinds = self._voices_of(behind) if behind is not None else None
        preview = self._preview if behind is None else None
        if preview is not None:
            self.words.setText(f"{self.words.text()} · {expected_in_words()}")
        unfolded, as_table = self.fold.isChecked(), self.as_table.isChecked()
        made_of = (
            analysis,
            voices,
            self._facts,
            preview,
            behind,
            behinds,
            self.order,
            unfolded,
            as_table,
        )
        if len(made_of) == len(self._made_of) and all(map(is_, made_of, self._made_of)):
            return  # it would be painted as it is
        self._made_of = made_of
        page = lanes_page(analysis, voices, self._facts)
        laid = lanes_page(behind, behinds) if behind else None
        if preview is not None:
            from plucky_ledger.pages.preview import preview_page  # comes after the first look

            laid = preview_page(page, preview)
        page = ordered(page, self.order)
        parts = parts_of_system(page)
        self.fold.show_text(fold_line(parts))
        self.fold.setVisible(parts.lanes > 0)
        self._show(page if unfolded else folded(page), laid)

    def _show(self, page: LanesPage | None, laid: LanesPage | None) -> None:
        self.canvas.show_pages(
            page,
            laid,
            say(
                "No boot yet. Record one with Ctrl+R, time it with the stopwatch (Ctrl+T), or "
                "type its figures."
            ),
        )
        if self.as_table.isChecked():
            self.table.shown.show_pages(page, laid)
        self._show_chosen()

    def order_by(self, order: LaneOrder) -> None:
        """Put the lanes in another order."""
        self.order = order
        self.order_box.setCurrentIndex(self.order_box.findData(order))
        self.refresh()

    def _show_table(self, on: bool) -> None:
        shown = self.table if on else self.canvas
        self._views.setCurrentWidget(shown)
        self.as_table.setText(say("As lanes") if on else say("As a table"))
        self.refresh()
        shown.setFocus()

    def _show_chosen(self) -> None:
        """Say what is known of the chosen lane."""
        page, chosen = self.canvas.page, self.canvas.chosen
        lane = (
            next((lane for lane in page.lanes if lane.entry_id == chosen), None) if page else None
        )
        sentence = legend() if page is not None and page.lanes else ""
        if page is not None and lane is not None:
            sentence = lane_in_words(figures_of(page, lane))
            announce(self.canvas, sentence)
        self._about.setText(sentence)
        self.table.choose(chosen)

    # What is worked out off this thread.

    def _ask_early(self) -> None:
        """Have it worked out while the rest of the window is still being shown anew."""
        boot, job = self._desk.boot, self._desk.job
        if self.isVisible() and boot is not None and job is not None and self._desk.analysis(boot):
            self._ask(job, boot)

    def _voices_of(self, analysis: Analysis) -> Voices | None:
        """What each entry did over time; asked for where it is not known yet."""
        key = analysis.boot.uuid
        kept = self._voices.get(key)
        if kept is not None and kept[0] is analysis:
            return kept[1]
        self._voices.keep(key, (analysis, None))

        def known(voices: Voices | None) -> None:
            now = self._voices.get(key)
            if now is not None and now[0] is analysis:
                self._voices.keep(key, (analysis, voices))
                self.refresh()

        self._desk.executor.work_out(f"voices {key}", lambda: boot_voices(analysis), known)
        return None

    def _ask(self, job: Job, boot: Boot) -> None:
        """Have costs, decisions and what is pencilled worked out, where they are not known.

        They come together: what is decided and what that brings is painted once.
        """
        wanted, before = (job, self._desk.boots, boot), self._asked
        if wanted == before:
            return
        self._asked = wanted
        if before is None or before[0].number != job.number:
            self._facts = NO_FACTS
        if before is None or before[2].uuid != boot.uuid or job.pencilled is None:
            self._preview = None
        shop, boots = self._desk.workshop, self._desk.boots

        def work() -> "tuple[Preview | None, LaneFacts]":
            preview = shop.costs.preview(shop.ledger, job, boot)
            return preview, lane_facts(shop.ledger, job, boots, shop.costs)

        def known(found: "tuple[Preview | None, LaneFacts]") -> None:
            if wanted == self._asked:
                self._preview, self._facts = found
                self.refresh()

        self._desk.executor.work_out("lanes", work, known)

    # What is done here.

    def decide(self, decision: Decision) -> None:
        """Decide about the entry of the chosen lane."""
        page, chosen = self.canvas.page, self.canvas.chosen
        lanes = page.lanes if page is not None else ()
        entries = [lane.entry for lane in lanes if lane.entry_id == chosen and lane.entry]
        self._deciding.decide(entries, decision)

    @property
    def basis(self) -> "Basis | None":
        """What the chosen lane rests on; None without one."""
        from plucky_ledger.wording.basis import of_lane  # once somebody asks

        page, chosen = self.canvas.page, self.canvas.chosen
        for lane in page.lanes if page is not None else ():
            if page is not None and lane.entry_id == chosen:
                return of_lane(figures_of(page, lane), self._facts.costs.get(chosen))
        return None

    def save(self, path: Path) -> None:
        """Save the lanes as they are in view, all rows of them, as SVG or PNG."""
        save_chart(self._desk, self.canvas, path)
