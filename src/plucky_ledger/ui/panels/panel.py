"""What all panels share: a title, a body, and buttons at the foot."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFormLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.ui.accessible.announcing import announce
from plucky_ledger.ui.text import Text
from plucky_ledger.ui.theme import title_font
from plucky_ledger.wording.trouble import trouble_in_words


class Panel(QWidget):
    """A page that stands in place of the lenses until it is closed.

    Signals:
        closed(): done with, or left with Escape.
    """

    closed = Signal()

    def __init__(self, title: str, hint: str = "") -> None:
        super().__init__()
        self.setObjectName("page")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(title)
        self._title = Text(title)
        self._title.setFont(title_font(1.6))
        self._title.setWordWrap(True)
        self._hint = Text(hint)
        self._hint.setWordWrap(True)
        self._hint.setProperty("quiet", True)
        self.body = QVBoxLayout()
        self.body.setSpacing(10)
        self.trouble = Text()
        self.trouble.setWordWrap(True)
        self.trouble.setProperty("bad", True)
        self.trouble.hide()
        self.foot = QHBoxLayout()
        self.foot.addStretch(1)
        self._main_button: QPushButton | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 18, 24, 16)
        layout.setSpacing(10)
        layout.addWidget(self._title)
        layout.addWidget(self._hint)
        layout.addLayout(self.body, 1)
        layout.addWidget(self.trouble)
        layout.addLayout(self.foot)
        leave = QShortcut(QKeySequence(Qt.Key.Key_Escape), self)
        leave.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        leave.activated.connect(self.leave)

    def add_button(self, text: str, main: bool = False) -> QPushButton:
        """A button at the foot; the main one is dark, and is what Return does."""
        button = QPushButton(text)
        if main:
            self._main_button = button
        button.setProperty("main", main)
        button.setAutoDefault(main)
        self.foot.addWidget(button)
        return button

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Return does what the button says that the keyboard is on, else what the main one says."""
        focus = self.focusWidget()
        button = focus if isinstance(focus, QPushButton) else self._main_button
        returns = event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}
        held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        in_a_list = isinstance(focus, QAbstractItemView)
        if returns and not held and not in_a_list and button is not None and button.isVisible():
            button.click()
        else:
            super().keyPressEvent(event)

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab stays on the page: Escape leaves it, F6 goes to the other one."""
        chain: list[QWidget] = []
        widget = self.nextInFocusChain()
        while widget is not None and widget is not self:
            if self.isAncestorOf(widget) and _takes_tab(widget):
                chain.append(widget)
            widget = widget.nextInFocusChain()
        if not chain:
            return super().focusNextPrevChild(forward)
        focus = self.focusWidget()
        at = chain.index(focus) if focus in chain else -1 if forward else 0
        following = chain[(at + (1 if forward else -1)) % len(chain)]
        reason = Qt.FocusReason
        following.setFocus(reason.TabFocusReason if forward else reason.BacktabFocusReason)
        return True

    def retitle(self, title: str, hint: str) -> None:
        """Other words at the head."""
        self.setAccessibleName(title)
        self._title.setText(title)
        self._hint.setText(hint)

    def refuse(self, trouble: Trouble | None) -> None:
        """Say what is wrong with what was filled in; None when nothing is."""
        self.trouble.setText(f"! {trouble_in_words(trouble)}" if trouble else "")
        self.trouble.setVisible(trouble is not None)
        announce(self.trouble, self.trouble.text(), at_once=True)

    def leave(self) -> None:
        """Close without doing anything."""
        self.refuse(None)
        self.closed.emit()


def _takes_tab(widget: QWidget) -> bool:
    by_tab = widget.focusPolicy() & Qt.FocusPolicy.TabFocus
    usable = widget.isVisible() and widget.isEnabled() and widget.focusProxy() is None
    return bool(by_tab) and usable


def form() -> QFormLayout:
    """A form with its labels at the left."""
    layout = QFormLayout()
    layout.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
    layout.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.ExpandingFieldsGrow)
    layout.setVerticalSpacing(8)
    layout.setHorizontalSpacing(16)
    return layout
