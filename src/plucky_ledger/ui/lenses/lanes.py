"""The Lanes lens: one boot as a timeline, with search, folding and pictures."""

from collections.abc import Mapping
from pathlib import Path

from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.book.job import Posting
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.cost.preview import Preview
from plucky_ledger.core.cost.startup_cost import StartupCost
from plucky_ledger.pages.lanes import folded, lanes_page
from plucky_ledger.pages.preview import preview_page
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lenses.lanes_canvas import LanesCanvas
from plucky_ledger.ui.lenses.lanes_layout import picture
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.costs import RoundCosts
from plucky_ledger.usecases.saving import save_picture
from plucky_ledger.usecases.workplace import home_folder
from plucky_ledger.wording.lanes import boot_in_words, expected_in_words
from plucky_ledger.wording.language import say


class LanesLens(QWidget):
    """Shows the chosen boot of the desk."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._costs_of: tuple[int, tuple[Boot, ...]] | None = None
        self._costs_known: Mapping[str, StartupCost] = {}
        self._preview_of: tuple[str, Posting | None] | None = None
        self._preview: Preview | None = None
        self.canvas = LanesCanvas()
        self.search = QLineEdit()
        self.search.setPlaceholderText(say("find a lane"))
        self.search.setAccessibleName(say("Find a lane"))
        self.search.setMaximumWidth(170)
        self.search.textChanged.connect(self.canvas.look_for)
        self.fold = QPushButton(say("Fold parts of the system"))
        self.fold.setCheckable(True)
        self.fold.toggled.connect(self.refresh)
        save = QPushButton(say("Save picture…"))
        save.clicked.connect(self._ask_and_save)
        foot = QHBoxLayout()
        foot.addWidget(self.search)
        foot.addWidget(self.fold)
        self.words = Text()
        self.words.setProperty("quiet", True)
        self.words.setWordWrap(True)
        foot.addWidget(self.words, 1)
        foot.addWidget(save)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 4, 8, 6)
        layout.setSpacing(4)
        layout.addWidget(self.canvas, 1)
        layout.addLayout(foot)

    def refresh(self) -> None:
        """Show the boot that is chosen now."""
        boot, job = self._desk.boot, self._desk.job
        self.words.setText(boot_in_words(boot, job.boots if job else ()) if boot else "")
        if boot is None:
            self.canvas.show_pages(
                None,
                None,
                "No boot yet. Record one with Ctrl+R, time it with the stopwatch (Ctrl+T), or "
                "type its figures.",
            )
            return
        analysis, behind = self._desk.analysis(boot), self._desk.analysis(self._desk.behind)
        if analysis is None:
            return
        laid = lanes_page(behind) if behind else None
        unfold = self.fold.isChecked()
        self.fold.setText(
            say("Unfold parts of the system") if unfold else say("Fold parts of the system")
        )
        page = lanes_page(analysis, self._costs())
        preview = self._previewed(boot)
        if laid is None and preview is not None:
            laid = preview_page(page, preview)
            self.words.setText(expected_in_words())
        self.canvas.show_pages(folded(page) if self.fold.isChecked() else page, laid, "")

    def _previewed(self, boot: Boot) -> Preview | None:
        """What is pencilled as the replay expects it; asked for where it is not known yet."""
        job, shop = self._desk.job, self._desk.workshop
        wanted = (boot.uuid, job.pencilled) if job is not None else None
        if wanted == self._preview_of:
            return self._preview
        self._preview_of, self._preview = wanted, None
        if job is None or job.pencilled is None:
            return None
        number = job.number

        def known(preview: Preview | None) -> None:
            if wanted == self._preview_of and preview is not None:
                self._preview = preview
                self.refresh()

        self._desk.executor.work_out(
            "preview", lambda: shop.costs.preview(shop.ledger, number, boot), known, at_leisure=True
        )
        return None

    def _costs(self) -> Mapping[str, StartupCost]:
        """Costs of the line's entries where they are known; asked for where they are not."""
        job, boots = self._desk.job, self._desk.boots
        if job is None or self._costs_of != (job.number, boots):
            self._costs_known = {}
        if job is not None and self._costs_of != (job.number, boots):
            self._costs_of = (job.number, boots)
            shop, number = self._desk.workshop, job.number

            def known(costs: RoundCosts) -> None:
                self._costs_known = costs.costs
                self.refresh()

            self._desk.executor.work_out(
                "lanes", lambda: shop.costs.of(shop.ledger, number, boots), known, at_leisure=True
            )
        return self._costs_known

    def _ask_and_save(self) -> None:
        job = self._desk.job
        if job is None or self.canvas.sheet is None:
            return
        chosen, _ = QFileDialog.getSaveFileName(
            self,
            say("Save the lanes"),
            str(home_folder() / f"lanes-{job.card.label}.svg"),
            say("Pictures (*.svg *.png)"),
        )
        if chosen:
            self.save(Path(chosen))

    def save(self, path: Path) -> None:
        """Save the lanes as they are in view, all rows of them, as SVG or PNG."""
        sheet = self.canvas.sheet
        if sheet is None:
            return
        data = picture(sheet.front, sheet.behind, sheet.view, path.suffix.lower())
        sentence = say("The lanes are in {path}.", path=str(path))
        self._desk.executor.ask(
            "save", lambda: save_picture(data, path), lambda _none: self._desk.door.say(sentence)
        )
