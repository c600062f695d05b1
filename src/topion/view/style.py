"""Colours, fonts and the style sheet: warm paper, and its dark counterpart."""

from __future__ import annotations

import re
from importlib import resources

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication, QToolTip, QWidget

_PAPER = {
    "panel": "#f1ede4", "panel2": "#e6e0d3", "card": "#fbfaf5", "line": "#cbc2b0",
    "ink": "#22303a", "soft": "#5d6469", "buoy": "#ae3e1f", "tidal": "#206f66",
    "ochre": "#895913", "table": "#d8d2c4", "on_ink": "#f6f2e9", "rail": "#cfc8b9",
    "faint": "#8f8877",
    "sky top": "#e9e5db", "sky foot": "#c6bdab",
}  # fmt: skip
_DARK = {
    "panel": "#20282d", "panel2": "#1a2125", "card": "#2a343a", "line": "#3c484f",
    "ink": "#ece6d9", "soft": "#98a2a5", "buoy": "#e97c5c", "tidal": "#48aa9c",
    "ochre": "#d79c40", "table": "#14191c", "on_ink": "#1a2125", "rail": "#46535a",
    "faint": "#6b7e89",
    "sky top": "#2b353b", "sky foot": "#12171a",
}  # fmt: skip
_INKS = ("ink", "soft", "buoy", "tidal", "ochre")  # that text is written in
_ROLE = QPalette.ColorRole
_ROLES = {  # in which roles of Qt's palette the colours stand, also for what Qt draws by itself
    "panel": (_ROLE.Window,), "panel2": (_ROLE.AlternateBase,),
    "card": (_ROLE.Base, _ROLE.Button, _ROLE.ToolTipBase), "line": (_ROLE.Mid,),
    "ink": (_ROLE.WindowText, _ROLE.Text, _ROLE.ButtonText, _ROLE.ToolTipText),
    "soft": (_ROLE.PlaceholderText,), "faint": (_ROLE.Dark,), "rail": (_ROLE.Midlight,),
    "buoy": (_ROLE.BrightText,), "tidal": (_ROLE.Highlight, _ROLE.Link),
    "ochre": (_ROLE.LinkVisited,), "on_ink": (_ROLE.HighlightedText,),
}  # fmt: skip
VEIL = QColor(18, 24, 28, 100)  # over what waits behind a sheet
_names = _PAPER
_fonts: list[int] = []  # those that Qt knows


def use_dark(dark: bool) -> None:
    """Use the dark counterpart of the paper colours, or paper."""
    global _names
    _names = _DARK if dark else _PAPER


def is_dark() -> bool:
    """Whether the dark colours are in use."""
    return _names is _DARK


def name(colour: str) -> str:
    """The `#rrggbb` of a colour by its name in the design."""
    return _names[colour]


def ink(colour: str, alpha: int = 255) -> QColor:
    """A colour by its name in the design."""
    found = QColor(_names[colour])
    found.setAlpha(alpha)
    return found


def tint(widget: QWidget, colour: str) -> None:
    """Write what a widget says in a colour of the design, also after a change of theme."""
    mark(widget, "ink", colour)


def mark(widget: QWidget, name: str, value: str | bool) -> None:
    """Set a property that the style sheet knows, and dress the widget anew where it is dressed."""
    if widget.property(name) == value:
        return
    widget.setProperty(name, value)
    if widget.testAttribute(Qt.WidgetAttribute.WA_WState_Polished):
        _polish(widget)


def rgb(colour: str) -> tuple[float, float, float]:
    """Red, green and blue from 0 to 1, for OpenGL."""
    found = QColor(_names[colour])
    return found.redF(), found.greenF(), found.blueF()


def load_fonts() -> None:
    """Make the shipped fonts known to Qt, once: each time all that is laid out is so anew."""
    if _fonts:
        return
    folder = resources.files("topion.view").joinpath("fonts")
    for face in ("Regular", "Bold", "Italic", "Medium"):
        data = folder.joinpath(f"Lato-{face}.ttf").read_bytes()
        _fonts.append(QFontDatabase.addApplicationFontFromData(data))


def font(size_px: int = 13, *, bold: bool = False, medium: bool = False) -> QFont:
    """Lato in that size."""
    found = QFont("Lato")
    found.setPixelSize(size_px)
    if bold:
        found.setWeight(QFont.Weight.Bold)
    elif medium:
        found.setWeight(QFont.Weight.Medium)
    return found


def heading() -> QFont:
    """The small spaced headings of panels."""
    found = font(11, bold=True)
    found.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, 0.6)
    return found


def dress(app: QApplication) -> None:
    """Put fonts, palette and style sheet on the application, or the palette alone of another
    theme; what is dressed already takes it when it is dressed again."""
    palette = _palette()
    app.setPalette(palette)
    QToolTip.setPalette(palette)
    if not app.styleSheet():  # it is put on each widget that there is
        app.setFont(font(13))
        app.setStyleSheet(_sheet())


def dress_again(widget: QWidget) -> None:
    """Put the palette in use on a widget that was dressed in another."""
    _polish(widget)
    QApplication.sendEvent(widget, QEvent(QEvent.Type.StyleChange))
    widget.update()


def _polish(widget: QWidget) -> None:
    """Anew; Qt forgets a font that was set after the first time."""
    own = widget.font() if widget.testAttribute(Qt.WidgetAttribute.WA_SetFont) else None
    look = widget.style()
    if look is not None:
        look.unpolish(widget)
        look.polish(widget)
    if own is not None:
        widget.setFont(own)


def _palette() -> QPalette:
    found = QPalette()
    for colour, roles in _ROLES.items():
        for role in roles:
            found.setColor(role, ink(colour))
    return found


def _mark(name: str) -> str:
    """The file of a small picture."""
    found = resources.files("topion.view").joinpath("marks", f"{name}.svg")
    return str(found).replace("\\", "/")


def _sheet() -> str:
    """The style sheet: its colours are roles of the palette, so that it is never read again."""
    n = {colour: f"palette({_said(roles[0])})" for colour, roles in _ROLES.items()}
    return _inks(n) + _buttons(n) + _fields(n) + _sheets(n) + _rest(n)


def _said(role: QPalette.ColorRole) -> str:
    """As a style sheet calls it: `window-text` for WindowText."""
    return re.sub(r"\B[A-Z]", r"-\g<0>", role.name).lower()


def _inks(n: dict[str, str]) -> str:
    """Before what follows, which then says how a disabled or chosen one looks."""
    tinted = "".join(f'*[ink="{ink}"] {{ color: {n[ink]}; }}' for ink in _INKS)
    return f"* {{ color: {n['ink']}; }} {tinted}"


def _buttons(n: dict[str, str]) -> str:
    return f"""
    QMainWindow, QDialog {{ background: {n["panel"]}; }}
    QToolTip {{ background: {n["card"]}; color: {n["ink"]}; border: 1px solid {n["line"]};
        padding: 4px 6px; }}
    QPushButton {{ background: {n["card"]}; border: 1px solid {n["line"]}; border-radius: 13px;
        padding: 4px 13px; min-height: 16px; }}
    QMessageBox, QDialogButtonBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
    QPushButton:hover {{ border-color: {n["soft"]}; }}
    QPushButton:focus {{ border-color: {n["tidal"]}; }}
    QPushButton:pressed, QPushButton:checked {{ background: {n["ink"]}; color: {n["on_ink"]};
        border-color: {n["ink"]}; }}
    QPushButton:disabled {{ color: {n["faint"]}; }}
    QPushButton#strong {{ background: {n["ink"]}; color: {n["on_ink"]};
        border-color: {n["ink"]}; }}
    QPushButton#care {{ background: {n["buoy"]}; color: {n["on_ink"]};
        border-color: {n["buoy"]}; }}
    QPushButton#strong:disabled, QPushButton#care:disabled {{
        background: {n["card"]}; color: {n["faint"]}; border-color: {n["line"]}; }}
    QPushButton#plain {{ background: transparent; border: 1px solid transparent; padding: 1px 3px;
        border-radius: 4px; text-align: left; }}
    QPushButton#plain:hover {{ background: {n["panel2"]}; }}
    QPushButton#plain:focus {{ border: 1px solid {n["tidal"]}; }}
    QPushButton#plain::menu-indicator {{ image: none; width: 0; }}
    QPushButton::menu-indicator {{ image: none; width: 0; }}
    QPushButton#tab {{ background: transparent; border: none; border-radius: 0; padding: 1px 2px;
        border-bottom: 2px solid transparent; font-size: 11px; font-weight: bold; }}
    QPushButton#tab[ink="buoy"] {{ border-bottom-color: {n["buoy"]}; }}
    QPushButton#tab[ink="tidal"] {{ border-bottom-color: {n["tidal"]}; }}
    QPushButton#tab:focus {{ border: 1px solid {n["tidal"]}; }}
    QPushButton[tight="true"] {{ padding: 4px 8px; }}
    QPushButton#segment {{ border-radius: 0; border-left: none; }}
    QPushButton#segmentfirst {{ border-radius: 0; border-top-left-radius: 13px;
        border-bottom-left-radius: 13px; }}
    QPushButton#segmentlast {{ border-radius: 0; border-left: none;
        border-top-right-radius: 13px; border-bottom-right-radius: 13px; }}
    QPushButton#segment:checked, QPushButton#segmentfirst:checked, QPushButton#segmentlast:checked
        {{ background: {n["ink"]}; color: {n["on_ink"]}; }}
    """


def _fields(n: dict[str, str]) -> str:
    return f"""
    QComboBox:disabled, QCheckBox:disabled, QLineEdit:disabled {{ color: {n["faint"]}; }}
    QLineEdit, QSpinBox, QDoubleSpinBox, QComboBox, QPlainTextEdit {{ background: {n["card"]};
        border: 1px solid {n["line"]}; border-radius: 4px; padding: 3px 6px;
        selection-background-color: {n["tidal"]}; }}
    QLineEdit:focus, QSpinBox:focus, QComboBox:focus, QPlainTextEdit:focus
        {{ border-color: {n["tidal"]}; }}
    QSpinBox, QDoubleSpinBox {{ padding: 1px 6px; }}
    QSpinBox::up-button, QSpinBox::down-button {{ width: 0; border: none; }}
    QComboBox {{ padding-left: 8px; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ image: url("{_mark("down")}"); width: 10px; height: 6px; }}
    QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {n["soft"]};
        border-radius: 3px; background: {n["card"]}; }}
    QCheckBox::indicator:focus {{ border-color: {n["tidal"]}; }}
    QCheckBox::indicator:checked {{ image: url("{_mark("tick")}"); }}
    QCheckBox::indicator:indeterminate {{ image: url("{_mark("some")}"); }}
    QLineEdit[wrong="true"] {{ border-color: {n["buoy"]}; }}
    QLineEdit#number {{ background: transparent; border: none; border-radius: 0;
        border-bottom: 1px dotted {n["soft"]}; padding: 0; }}
    QLineEdit#number:focus {{ border-bottom: 1px solid {n["tidal"]}; }}
    QLineEdit#find {{ background: transparent; border: none;
        border-bottom: 1px solid transparent; }}
    QLineEdit#find:focus {{ border-bottom: 1px solid {n["tidal"]}; }}
    """


def _sheets(n: dict[str, str]) -> str:
    """What floats over the window, and the column at its right."""
    return f"""
    #right {{ background: {n["panel"]}; border-left: 1px solid {n["line"]}; }}
    #looks {{ background: {n["panel"]}; border: 1px solid {n["soft"]}; border-radius: 6px; }}
    #looks #body {{ background: {n["panel"]}; }}
    #peek {{ background: {n["card"]}; border: 1px solid {n["soft"]}; }}
    #popup {{ background: {n["card"]}; border: 1px solid {n["line"]}; }}
    #progress {{ background: {n["card"]}; border: 1px solid {n["ink"]}; border-radius: 6px; }}
    #said {{ background: {n["ink"]}; color: {n["on_ink"]}; padding: 7px 12px;
        border-radius: 6px; }}
    QFrame#floating {{ background: {n["card"]}; border: 1px solid {n["ochre"]};
        border-radius: 6px; }}
    #dropline {{ background: {n["buoy"]}; }}
    """


def _rest(n: dict[str, str]) -> str:
    return f"""
    QMenu {{ background: {n["card"]}; border: 1px solid {n["line"]}; padding: 4px; }}
    QMenu::item {{ padding: 5px 22px 5px 14px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {n["panel2"]}; }}
    QMenu::item:disabled {{ color: {n["soft"]}; }}
    QMenu::separator {{ height: 1px; background: {n["line"]}; margin: 4px 8px; }}
    QScrollArea {{ background: transparent; border: none; }}
    QScrollBar:horizontal {{ height: 8px; background: transparent; }}
    QScrollBar:vertical {{ width: 8px; background: transparent; }}
    QScrollBar::handle {{ background: {n["rail"]}; border-radius: 4px; min-width: 24px;
        min-height: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QProgressBar {{ background: {n["panel2"]}; border: none; border-radius: 3px; height: 6px; }}
    QProgressBar::chunk {{ background: {n["tidal"]}; border-radius: 3px; }}
    QComboBox QAbstractItemView {{ background: {n["card"]}; border: 1px solid {n["line"]};
        selection-background-color: {n["panel2"]}; selection-color: {n["ink"]}; }}
    """
