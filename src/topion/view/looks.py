"""Looks: what a room is worn in, as pictures side by side: themes, tint maps, light, palette."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Literal

from PyQt6.QtCore import QEvent, QObject, QPoint, QRect, QSize, Qt, QTimer
from PyQt6.QtGui import QImage, QKeyEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from topion.brushes import TintBrush
from topion.edit.library import free_name, put_brush
from topion.edit.rooms import clear_layer, remove_layer, set_layer, set_room
from topion.edit.wear import add_tint_map, put_theme_sheet, remove_theme, set_two_tone, wear
from topion.errors import TopionError
from topion.formats.themes_in import theme_sheet_from_file, theme_sheet_from_set
from topion.model.light import READY, Light
from topion.model.themes import sheet_for, theme_names
from topion.render.look_pictures import Look, look_of
from topion.view import settings, style
from topion.view.hands import Hand
from topion.view.host import Host
from topion.view.look_pictures import LookPictures
from topion.view.panels.fields import choice_button
from topion.view.panels.light_rows import LightRows
from topion.view.panels.look_tiles import TILE_PX, Choice, LookTiles
from topion.view.panels.palette import PaletteEditor
from topion.view.session import Session

_WIDE, _SOON_MS = 448, 120
_FIRST, _NO_TINT = "First", "None"


class Looks(QFrame):
    """Stands over the left of the table; what is chosen shows on the table at once."""

    def __init__(self, window: QWidget, over: QWidget, host: Host, session: Session) -> None:
        """over : the part of the window that it covers."""
        super().__init__(window)
        over.installEventFilter(self)
        self._over, self._host, self.session = over, host, session
        self.setObjectName("looks")
        self.setAccessibleName("Looks")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._pictures = LookPictures(self, TILE_PX)
        self._pictures.made.connect(self._repaint)
        self.themes = LookTiles("Themes", self._theme_picture, self._wear_theme)
        self.tints = LookTiles("Tint maps", self.tint_picture, self._wear_tint)
        self.lights = LookTiles("Lights", self._light_picture, self._use_light)
        self.palette_editor = PaletteEditor(lambda: self.session, self.take_colour, self._ask_gpl)
        self.light_rows = LightRows(lambda: self.session)
        self.missing = QLabel()
        style.tint(self.missing, "ochre")
        self.missing.setWordWrap(True)
        self._lay_out()
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON_MS)
        self._soon.timeout.connect(self.refresh)
        self.hide()
        self.use(session)

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        session.changed.connect(lambda _: self._stale())
        session.room_changed.connect(self._stale)
        self._stale()

    def _stale(self) -> None:
        if self.isVisible():
            self._soon.start()

    # --- its parts ------------------------------------------------------------------------

    def _lay_out(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(14, 8, 6, 10)
        head = QHBoxLayout()
        title = QLabel("Looks")
        title.setFont(style.font(16, bold=True))
        close = choice_button("✕", "Put it away (Esc)")
        close.clicked.connect(self.put_away)
        head.addWidget(title)
        head.addStretch(1)
        head.addWidget(close)
        whole.addLayout(head)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 8, 0)
        column.setSpacing(4)
        theme = choice_button("+ sheet ▾", "Bring in another sheet for the slots of a tile set")
        theme.clicked.connect(lambda: self._theme_menu(theme))
        column.addLayout(_heading("Themes", theme))
        column.addWidget(self.themes)
        column.addWidget(self.missing)
        self.map_words = self._words_of_maps()
        self.two_tone = choice_button(
            "two-tone ▾", "Tile sets whose light and dark pixels take tints"
        )
        self.two_tone.clicked.connect(self._two_tone_menu)
        column.addLayout(_heading("Tint maps", *self.map_words.values(), self.two_tone))
        column.addWidget(self.tints)
        self._light_part = QWidget()
        light = QVBoxLayout(self._light_part)
        light.setContentsMargins(0, 0, 0, 0)
        tip = "How finely voxel rooms are drawn; the rest of the window stays crisp (Shift+K)"
        self.detail = choice_button("", tip)
        self.detail.clicked.connect(self._next_detail)
        light.addLayout(_heading("Light", self.detail))
        light.addWidget(self.lights)
        light.addWidget(self.light_rows)
        column.addWidget(self._light_part)
        column.addLayout(_heading("Palette"))
        column.addWidget(self.palette_editor)
        column.addStretch(1)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setWidget(body)
        body.setObjectName("body")
        whole.addWidget(self._area, 1)

    def _words_of_maps(self) -> dict[str, QPushButton]:
        made = {}
        for word, tip, does in (
            ("+ new", "A new tint map, which is worn then", self._add_map),
            ("copy", "A copy of the worn map", self._copy_map),
            ("rename", "Another name for the worn map", self._rename_map),
            ("clear", "No cell of the worn map is tinted any more", self._clear_map),
            ("remove", "Take the worn map away; undo brings it back", self._remove_map),
        ):
            made[word] = choice_button(word, tip)
            made[word].clicked.connect(does)
        return made

    # --- shown and put away ---------------------------------------------------------------

    def toggle(self) -> None:
        """Show it, or put it away."""
        if self.isVisible():
            self.put_away()
            return
        self.fit()
        self.show()
        self.raise_()
        self.refresh()
        self.themes.setFocus()

    def fit(self) -> None:
        """As high as the table."""
        width, height = self._over.width(), self._over.height()
        corner = self._over.mapTo(self._over.window(), QPoint(8, 8))
        self.setGeometry(QRect(corner, QSize(min(_WIDE, width - 16), max(120, height - 16))))

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        what = event.type() if event is not None and self.isVisible() else None
        if what == QEvent.Type.Resize:
            self.fit()
        elif what == QEvent.Type.Hide:
            self.hide()  # a desk, the settings or Home stand in the place of the table
        return False

    def show_part(self, name: Literal["themes", "light", "palette"]) -> None:
        """Scroll to a part of it."""
        parts = {"themes": self.themes, "light": self._light_part, "palette": self.palette_editor}
        bar = self._area.verticalScrollBar()
        if bar is not None:
            bar.setValue(parts[name].y() - 6)

    def put_away(self) -> None:
        """Back to the table."""
        self._pictures.stop()
        self.hide()
        self._host.to_table()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.put_away()
        elif event is not None:
            event.ignore()

    def refresh(self) -> None:
        """Show the looks of the room as they are."""
        session = self.session
        if not session.has_room:
            self.put_away()
            return
        info, maps = session.room.info, session.room.tint_maps()
        names = theme_names(session.project)
        self.themes.show_choices([
            Choice("", _FIRST, not info.theme, "The sheets that tile sets were made with"),
            *(Choice(name, name, info.theme == name) for name in names),
        ])  # fmt: skip
        self.tints.show_choices([
            Choice("", _NO_TINT, not info.tint, "Colours as they are"),
            *(Choice(i, layer.info.name, info.tint == i) for i, layer in maps),
        ])  # fmt: skip
        self.lights.show_choices(
            [Choice(light, name, info.light == light) for name, light in READY.items()]
        )
        self._light_part.setVisible(info.axes == 3)
        for word in ("copy", "rename", "clear", "remove"):
            self.map_words[word].setVisible(bool(info.tint))
        self.detail.setText(f"{settings.detail()} detail")
        self.two_tone.setVisible(bool(session.project.tilesets))
        self._show_missing()
        self.palette_editor.refresh()
        self.light_rows.refresh()
        self._pictures.want(session, self._looks())

    def _looks(self) -> list[Look]:
        worn = look_of(self.session.room)
        looks = [worn._replace(theme=str(c.key)) for c in self.themes.choices]
        looks += [worn._replace(tint=str(c.key)) for c in self.tints.choices]
        if self.session.room.info.axes == 3:
            looks += [worn._replace(light=light) for light in READY.values()]
        return list(dict.fromkeys(looks))

    def _show_missing(self) -> None:
        """Which slots the worn theme does not have."""
        session, lines = self.session, []
        for name, tileset in session.project.tilesets.items():
            sheet = sheet_for(session.project, name, session.room.info.theme)
            lost = sheet.missing(tileset) if sheet is not None else []
            if lost:
                more = f" and {len(lost) - 5} more" if len(lost) > 5 else ""
                lines.append(f"{name}: {', '.join(lost[:5])}{more}")
        self.missing.setText(f"As in the first – {'; '.join(lines)}" if lines else "")
        self.missing.setVisible(bool(lines))

    def _repaint(self) -> None:
        for tiles in (self.themes, self.tints, self.lights):
            tiles.update()

    def _theme_picture(self, key: object) -> QImage | None:
        return self._pictures.image(look_of(self.session.room)._replace(theme=str(key)))

    def tint_picture(self, key: object) -> QImage | None:
        """The room in a tint map, once it is drawn."""
        return self._pictures.image(look_of(self.session.room)._replace(tint=str(key)))

    def _light_picture(self, key: object) -> QImage | None:
        light = key if isinstance(key, Light) else None
        return self._pictures.image(look_of(self.session.room)._replace(light=light))

    # --- what is chosen -------------------------------------------------------------------

    def _wear_theme(self, key: object) -> None:
        self.session.try_(wear, self.session.room_name, theme=str(key))

    def _wear_tint(self, key: object) -> None:
        self.session.try_(wear, self.session.room_name, tint=str(key))

    def _use_light(self, key: object) -> None:
        if isinstance(key, Light):
            self.session.try_(set_room, self.session.room_name, light=key)

    # --- tint maps ------------------------------------------------------------------------

    def _add_map(self) -> None:
        self.session.try_(add_tint_map, self.session.room_name)

    def _copy_map(self) -> None:
        worn = self.session.room.worn_tint
        if worn is not None:
            name, tint = worn.info.name, self.session.room.info.tint
            self.session.try_(add_tint_map, self.session.room_name, f"{name} copy", tint)

    def _rename_map(self) -> None:
        worn, tint = self.session.room.worn_tint, self.session.room.info.tint
        if worn is None:
            return
        name, ok = QInputDialog.getText(self, "Rename tint map", "Name", text=worn.info.name)
        if ok and name.strip():
            self.session.try_(set_layer, self.session.room_name, tint, name=name.strip())

    def _clear_map(self) -> None:
        self.session.try_(clear_layer, self.session.room_name, self.session.room.info.tint)

    def _remove_map(self) -> None:
        self.session.try_(remove_layer, self.session.room_name, self.session.room.info.tint)

    def _two_tone_menu(self) -> None:
        menu, project = QMenu(self), self.session.project
        for name, tileset in project.tilesets.items():
            masked = tileset.mask is not None
            text = f"{name}, by its mask" if masked else name
            action = menu.addAction(text, lambda n=name: self.switch_two_tone(n))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(masked or tileset.two_tone)
                action.setEnabled(not masked)
        menu.popup(self.two_tone.mapToGlobal(self.two_tone.rect().bottomLeft()))

    def switch_two_tone(self, name: str) -> None:
        """Light and dark pixels of a tile set take tints, or do so no more."""
        self.session.try_(set_two_tone, name, not self.session.project.tileset(name).two_tone)

    def _next_detail(self) -> None:
        self.session.asked.emit("detail")
        self.detail.setText(f"{settings.detail()} detail")

    # --- colours --------------------------------------------------------------------------

    def take_colour(self, hand: Hand, number: int) -> None:
        """Give the tint brush of that hand a colour of the palette; without one in the hand, take
        the first of the rack there, or a new one."""
        session = self.session
        held = session.hands.brush(hand)
        if not isinstance(held, TintBrush):
            known = (b for b in session.project.brushes.values() if isinstance(b, TintBrush))
            held = next(known, None)
            if held is None:
                held = TintBrush(free_name("Tint", session.project.brushes))
                session.try_(put_brush, held)
            session.hands.take(hand, held.name)
        part = "fore" if hand == "left" else "back"
        session.put(held.changed(**{part: number}), ("colour", held.name, part))

    def _ask_gpl(self) -> Path | None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Palette file", str(self._host.last_folder()), "GPL palettes (*.gpl)"
        )
        if name:
            self._host.remember_folder(Path(name).parent)
        return Path(name) if name else None

    # --- themes ---------------------------------------------------------------------------

    def _theme_menu(self, button: QPushButton) -> None:
        menu, project = QMenu(self), self.session.project
        for name in project.tilesets:
            menu.addAction(f"PNG for {name}…", lambda n=name: self._ask_sheet(n))
        pairs = [(a, b) for a, b in _pairs(list(project.tilesets)) if _share_names(project, a, b)]
        for name, other in pairs:
            menu.addAction(f"{other} for {name}, by names",
                           lambda n=name, o=other: self._use_set(n, o))  # fmt: skip
        worn = self.session.room.info.theme
        if worn:
            menu.addSeparator()
            menu.addAction(f"Remove theme {worn}", lambda: self._remove_theme(worn))
        if menu.isEmpty():
            self.session.said.emit("A theme needs a tile set: bring in a sheet first")
            return
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def _ask_theme(self, like: str) -> str:
        """like : what it is called if nothing else is said."""
        worn = self.session.room.info.theme
        free = free_name(like, theme_names(self.session.project))
        name, ok = QInputDialog.getText(self, "Theme", "Name of the theme", text=worn or free)
        return name.strip() if ok else ""

    def _ask_sheet(self, tileset: str) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self, f"Another sheet for {tileset}", str(self._host.last_folder()), "PNG (*.png)"
        )
        theme = self._ask_theme(Path(path).stem.capitalize()) if path else ""
        if theme:
            self._host.remember_folder(Path(path).parent)
            self.bring_in(tileset, Path(path), theme)

    def bring_in(self, tileset: str, path: Path, theme: str) -> None:
        """A picture as the sheet of a theme, which is worn then."""
        self._put_sheet(lambda: theme_sheet_from_file(
            self.session.project.tileset(tileset), path, theme), theme)  # fmt: skip

    def _use_set(self, tileset: str, other: str) -> None:
        theme, project = self._ask_theme(other), self.session.project
        if theme:
            self._put_sheet(lambda: theme_sheet_from_set(
                project.tileset(tileset), project.tileset(other), theme), theme)  # fmt: skip

    def _put_sheet(self, make: Callable[[], object], theme: str) -> None:
        try:
            sheet = make()
        except TopionError as problem:
            self.session.said.emit(str(problem))
            return
        if self.session.try_(put_theme_sheet, sheet):
            self.session.try_(wear, self.session.room_name, theme=theme)

    def _remove_theme(self, theme: str) -> None:
        self.session.try_(wear, self.session.room_name, theme="")
        self.session.try_(remove_theme, theme)


def _heading(text: str, *buttons: QWidget) -> QHBoxLayout:
    line = QHBoxLayout()
    line.setContentsMargins(0, 6, 0, 0)
    label = QLabel(text)
    label.setFont(style.heading())
    line.addWidget(label)
    line.addStretch(1)
    for button in buttons:
        line.addWidget(button)
    return line


def _pairs(names: list[str]) -> list[tuple[str, str]]:
    return [(a, b) for a in names for b in names if a != b]


def _share_names(project: object, a: str, b: str) -> bool:
    tilesets = project.tilesets  # type: ignore[attr-defined]
    return bool(tilesets[a].slots.keys() & tilesets[b].slots.keys())
