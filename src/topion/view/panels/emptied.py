"""Rows that are made anew, without the keys being lost."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication, QLayout, QWidget


def emptied(layout: QLayout) -> None:
    """Take all out of a layout that is filled anew at once.  Where one of its widgets had the
    keys, the one that then stands in its place gets them."""
    place = _place_of_keys(layout)
    while (item := layout.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.hide()
            widget.deleteLater()
    owner = layout.parentWidget()
    if place is None or owner is None:
        return
    later = QTimer(owner)  # gone with it
    later.setSingleShot(True)
    later.timeout.connect(lambda: _give_keys(layout, place))
    later.timeout.connect(later.deleteLater)
    later.start(0)


def _place_of_keys(layout: QLayout) -> int | None:
    now = QApplication.focusWidget()
    return next((n for n, widget in enumerate(_keyed(layout)) if widget is now), None)


def _give_keys(layout: QLayout, place: int) -> None:
    there = list(_keyed(layout))
    if there:
        there[min(place, len(there) - 1)].setFocus(Qt.FocusReason.OtherFocusReason)


def _keyed(layout: QLayout) -> Iterator[QWidget]:
    """What can have the keys, from the first row on."""
    for number in range(layout.count()):
        item = layout.itemAt(number)
        if item is None:
            continue
        if (inner := item.layout()) is not None:
            yield from _keyed(inner)
        elif (widget := item.widget()) is not None:
            for part in (widget, *widget.findChildren(QWidget)):
                if part.focusPolicy() & Qt.FocusPolicy.TabFocus and part.isVisibleTo(widget):
                    yield part
