"""The head of the right page: the lenses' buttons, and what the lens in use is about."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QWidget

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.pages.lanes import typical_boot
from plucky_ledger.ui.beside import BesideOrBelow
from plucky_ledger.ui.choices import ChoiceRow, Chooser
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lenses.registry import LENSES, LensName, LensScope
from plucky_ledger.ui.text import Elided, Text, tip
from plucky_ledger.wording.book import line_in_words
from plucky_ledger.wording.figures import day_and_time
from plucky_ledger.wording.language import C_, say
from plucky_ledger.wording.safe import shown

BEHIND_CHARACTERS = 9


class LensHead(BesideOrBelow):
    """Lenses and scope beside each other; below each other where the page is narrow.

    Signals:
        chosen(LensName): its button was pressed.
    """

    chosen = Signal(object)

    def __init__(self, desk: Desk) -> None:
        titles = [say(lens.title) for lens in LENSES.values()]
        self.lenses = ChoiceRow(say("Views"), titles, tabs=True)
        self.lenses.explain_keys()
        self._scope = QWidget()
        super().__init__(self.lenses, self._scope, apart=40)
        self.setObjectName("lensHead")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._desk = desk
        self._lens = LensName.LANES
        self.lenses.chosen.connect(lambda at: self.chosen.emit(list(LensName)[at]))
        self.about = Elided()
        self.about.setProperty("quiet", True)
        self.chooser = BootChooser(desk)
        beside = QHBoxLayout(self._scope)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.setSpacing(2)
        beside.addWidget(self.about, 1)
        beside.addWidget(self.chooser)
        self.row.setContentsMargins(16, 4, 12, 0)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Room below the scope where it is the lower of two rows."""
        super().resizeEvent(event)
        self.row.setContentsMargins(16, 4, 12, 0 if self.is_beside else 4)

    def show_lens(self, name: LensName) -> None:
        """Another lens is in use."""
        self._lens = name
        self.lenses.take(list(LensName).index(name))
        one_boot = LENSES[name].scope is LensScope.BOOT
        self.chooser.about(one_boot=one_boot, lanes=name is LensName.LANES)
        self.say_what_it_is_about()

    def show_panel(self) -> None:
        """A panel stands in place of the lenses."""
        self.lenses.take(None)
        self.chooser.hide()
        self.about.show_text("")
        self._scope.hide()

    def say_what_it_is_about(self) -> None:
        """Which line, or state, of the job on the desk the lens in use shows."""
        job, scope = self._desk.job, LENSES[self._lens].scope
        said = ""
        if job is not None and scope in {LensScope.LINE, LensScope.BOOT}:
            said = line_in_words(job, self._desk.line, counted=scope is LensScope.LINE)
        elif scope is LensScope.NOW:
            said = say("the PC as it is now")
        elif scope is LensScope.JOB:
            said = say("the whole job")
        self.about.show_text(said)
        self._scope.setVisible(bool(said) or not self.chooser.isHidden())


class BootChooser(QWidget):
    """Which boot of the line is shown, and which is laid over it in pencil."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._one_boot = True
        self.boots = Chooser(say("Boot shown"), flat=True)
        self.behind = Chooser(say("Boot laid over it in pencil"), flat=True)
        self._behind_title = Text(say("in pencil"))
        self._behind_title.setProperty("quiet", True)
        self.boots.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        # What can be laid over it has long names: the list shows them whole.
        fixed = QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        self.behind.setSizeAdjustPolicy(fixed)
        self.behind.setMinimumContentsLength(BEHIND_CHARACTERS)
        self.behind.view().setMinimumWidth(190)
        self.boots.activated.connect(lambda at: desk.choose_boot(self.boots.itemData(at)))
        self.behind.activated.connect(lambda at: desk.lay_behind(self.behind.itemData(at)))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.boots)
        row.addWidget(self._behind_title)
        row.addWidget(self.behind)
        self._offered: tuple[object, ...] = ()
        """What was offered last, by what it was made of."""
        desk.job_changed.connect(self.refresh)
        desk.line_changed.connect(self.refresh)
        desk.boot_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Offer the boots there are now."""
        boots, job = self._desk.boots, self._desk.job
        rounds = job.rounds if job is not None else ()
        offered = boots, self._desk.boot, rounds, self._desk.behind, self._desk.measure
        if offered == self._offered:
            return
        self._offered = offered
        self.boots.clear()
        for index, boot in enumerate(boots, 1):
            sentence = say("boot {n} of {boots}", n=index, boots=len(boots))
            about = day_and_time(boot.started_at)
            if boot.set_aside:
                sentence = say("{boot}, set aside", boot=sentence)
                about = f"{about}: {shown(boot.set_aside)}"
            self.boots.addItem(sentence, boot)
            self.boots.setItemData(index - 1, tip(about), Qt.ItemDataRole.ToolTipRole)
        _choose(self.boots, self._desk.boot)
        self.behind.clear()
        self.behind.addItem(say(C_("boot", "none")), None)
        for number, round_ in enumerate(rounds):
            typical = typical_boot(round_, self._desk.measure)
            if typical is not None and typical != self._desk.boot and len(round_) > 1:
                self.behind.addItem(say("{round}, typical", round=_round_name(number)), typical)
            for index, boot in enumerate(round_, 1):
                if boot != self._desk.boot and boot.counts:
                    sentence = say("{round}, boot {n}", round=_round_name(number), n=index)
                    self.behind.addItem(sentence, boot)
        _choose(self.behind, self._desk.behind)
        self.boots.setEnabled(len(boots) > 1)
        self._show_or_hide()

    def about(self, one_boot: bool, lanes: bool) -> None:
        """The lens looks at one boot; in the lanes another can be laid behind it."""
        self._one_boot = one_boot
        self.behind.setVisible(lanes)
        self._behind_title.setVisible(lanes)
        self._show_or_hide()

    def _show_or_hide(self) -> None:
        self.setVisible(self._one_boot and bool(self._desk.boots))


def _round_name(number: int) -> str:
    return say("line {n}", n=number) if number else say("opening")


def _choose(box: QComboBox, boot: Boot | None) -> None:
    for index in range(box.count()):
        item = box.itemData(index)
        if (item.number if item else None) == (boot.number if boot else None):
            box.setCurrentIndex(index)
            return
