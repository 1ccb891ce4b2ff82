"""The desktop's own dialogs, opened without waiting for them.

Whoever opens one over the accessibility bus would wait for its end as well, and could not use it.
"""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QFileDialog, QWidget

if TYPE_CHECKING:
    from PySide6.QtPrintSupport import QPrinter


def ask_where_to_save(
    parent: QWidget, title: str, suggested: Path, kinds: str, save: Callable[[Path], None]
) -> None:
    """Ask for a file to save something in; nothing happens where nobody chooses one."""
    dialog = QFileDialog(parent, title, str(suggested.parent), kinds)
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    dialog.selectFile(suggested.name)
    dialog.fileSelected.connect(lambda name: save(Path(name)))
    _open(dialog)


def ask_what_to_open(
    parent: QWidget, title: str, folder: Path, kinds: str, take: Callable[[list[Path]], None]
) -> None:
    """Ask for files that are there; nothing happens where nobody chooses any."""
    dialog = QFileDialog(parent, title, str(folder), kinds)
    dialog.setFileMode(QFileDialog.FileMode.ExistingFiles)
    dialog.filesSelected.connect(lambda names: take(list(map(Path, names))))
    _open(dialog)


def ask_for_folder(parent: QWidget, title: str, folder: Path, take: Callable[[Path], None]) -> None:
    """Ask for a folder; nothing happens where nobody chooses one."""
    dialog = QFileDialog(parent, title, str(folder))
    dialog.setFileMode(QFileDialog.FileMode.Directory)
    dialog.setOption(QFileDialog.Option.ShowDirsOnly)
    dialog.fileSelected.connect(lambda name: take(Path(name)))
    _open(dialog)


def ask_for_printer(parent: QWidget, print_to: Callable[["QPrinter"], None]) -> None:
    """Ask for a printer and how to print."""
    from PySide6.QtPrintSupport import QPrintDialog, QPrinter

    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    dialog = QPrintDialog(printer, parent)
    dialog.accepted.connect(lambda: print_to(printer))
    _open(dialog)


def _open(dialog: QDialog) -> None:
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.open()
