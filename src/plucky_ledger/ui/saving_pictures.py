"""A chart saved as a picture, or copied for another program to paste."""

from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QMenu, QWidget

from plucky_ledger.ui.accessible.picture import Picture
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.dialogs import ask_where_to_save
from plucky_ledger.usecases.jobs.saving import save_picture
from plucky_ledger.usecases.jobs.workplace import home_folder
from plucky_ledger.wording.language import say


def chart_at(widget: QWidget, at: QPoint) -> Picture | None:
    """The chart at a place of a widget, or that it is; None without one."""
    under = widget if isinstance(widget, Picture) else widget.childAt(at)
    return under if isinstance(under, Picture) and under.is_chart else None


def offer_chart(desk: Desk, menu: QMenu, chart: Picture) -> None:
    """Put what can be done with a chart into its context menu."""
    menu.addSeparator()
    save = menu.addAction(say("Save this chart as a picture…"))
    save.triggered.connect(lambda: ask_and_save_chart(desk, chart))
    copy = menu.addAction(say("Copy this chart"))
    copy.triggered.connect(lambda: copy_chart(desk, chart))


def offer_alone(desk: Desk, chart: Picture) -> None:
    """Give a chart a context menu of its own."""

    def offer(at: QPoint) -> None:
        if chart.is_chart:
            menu = QMenu(chart)
            menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
            offer_chart(desk, menu, chart)
            menu.popup(chart.mapToGlobal(at))

    chart.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
    chart.customContextMenuRequested.connect(offer)


def ask_and_save_chart(desk: Desk, chart: Picture) -> None:
    """Choose a file for a chart."""
    if desk.job is None or not chart.is_chart:
        return
    name = f"{chart.name_of_file}-{desk.job.card.label}.svg"
    kinds = say("Pictures (*.svg *.png)")
    ask_where_to_save(
        chart,
        say("Save the picture"),
        home_folder() / name,
        kinds,
        lambda path: save_chart(desk, chart, path),
    )


def save_chart(desk: Desk, chart: Picture, path: Path) -> None:
    """Save a chart as SVG or PNG, as the file's ending says."""
    if not chart.is_chart:
        return
    save_picture_of(desk, chart.as_picture(_title(desk, chart), path.suffix.lower()), path)


def save_picture_of(desk: Desk, data: bytes, path: Path) -> None:
    """Save a picture that is made already."""
    sentence = say("The picture is in {path}.", path=str(path))
    desk.executor.ask(
        f"save {path}", lambda: save_picture(data, path), lambda _none: desk.door.say(sentence)
    )


def copy_chart(desk: Desk, chart: Picture) -> None:
    """Copy a chart as it would be saved."""
    picture = QImage.fromData(chart.as_picture(_title(desk, chart), ".png"))
    QGuiApplication.clipboard().setImage(picture)
    desk.door.say(say("The picture is copied."))


def _title(desk: Desk, chart: Picture) -> str:
    """What it shows, and of which job."""
    label = desk.job.card.label if desk.job is not None else ""
    return " · ".join(filter(None, (label, chart.accessibleName())))
