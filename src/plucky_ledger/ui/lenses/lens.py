"""What every lens is."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

if TYPE_CHECKING:
    from plucky_ledger.wording.basis import Basis


class Lens(QWidget):
    """One way to look at the selected line of the book."""

    def refresh(self) -> None:
        """Show the line, the boot and the measure that are selected now."""
        raise NotImplementedError

    @property
    def basis(self) -> "Basis | None":
        """What the figure chosen in it rests on; None where that is the line's."""
        return None
