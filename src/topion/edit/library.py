"""Edits of the library: items of any shelf, cards of the rack, names."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import count

from topion.errors import BadValue, NameTaken
from topion.model.brush import Brush
from topion.model.edit import Edit, Record
from topion.model.prefab import Prefab
from topion.model.project import MOST_MATERIALS, Project
from topion.model.records import ItemRecord, item_changed
from topion.model.shelves import Bay, Item, shelf_named
from topion.model.solid import MOST_BLOCKS, Block
from topion.model.tileset import TileSet
from topion.weaving.looms import tiles_with

BAYS = ("Ground", "Built", "Things", "Fields", "Stamps")


def put_item(project: Project, shelf: str, item: Item) -> Edit:
    """Add an item to a shelf, or change the one of that name."""
    old = project.shelf(shelf).get(item.name)
    if old == item:
        return Edit(item.name)
    word = shelf_named(shelf).word
    label = f"{item.name} set" if old is not None else f"New {word} {item.name}"
    return Edit(label, (item_changed((shelf, item.name), old, item),))


def put_brush(project: Project, brush: Brush, bay: str = "") -> Edit:
    """Add a brush, or change the one of that name.  Raises BadValue if a table is full."""
    old = project.brushes.get(brush.name)
    if old == brush:
        return Edit(brush.name)
    records: list[Record] = []
    for table, new in (("materials", _with_material(project, brush)),
                       ("tiles", tiles_with(project, brush.tiles_used()))):  # fmt: skip
        if new != getattr(project, table):
            records.append(ItemRecord((table,), getattr(project, table), new))
    records.append(item_changed(("brushes", brush.name), old, brush))
    if old is None:
        bays = _with_cards(project.bays, [brush.name], bay or brush.bay)
        records.append(ItemRecord(("bays",), project.bays, bays))
    label = f"{brush.name} set" if old else f"New brush {brush.name}"
    return Edit(label, tuple(records), brush.colour)


def put_brushes(project: Project, brushes: Sequence[Brush], bay: str) -> Edit:
    """Add many brushes at once, each with its card in a bay.  Raises NameTaken for one of a name
    that is there, BadValue if a table is full."""
    taken = next((brush.name for brush in brushes if brush.name in project.brushes), None)
    if taken is not None:
        raise NameTaken("brush", taken)
    known = dict.fromkeys(project.materials)
    known.update((brush.material, None) for brush in brushes if brush.material)
    if len(known) > MOST_MATERIALS:
        raise BadValue("the number of materials", len(known), f"at most {MOST_MATERIALS}")
    tiles = tiles_with(project, (ref for brush in brushes for ref in brush.tiles_used()))
    records: list[Record] = [ItemRecord((table,), getattr(project, table), new)
                             for table, new in (("materials", tuple(known)), ("tiles", tiles))
                             if new != getattr(project, table)]  # fmt: skip
    records += (item_changed(("brushes", brush.name), None, brush) for brush in brushes)
    bays = _with_cards(project.bays, [brush.name for brush in brushes], bay)
    if bays != project.bays:
        records.append(ItemRecord(("bays",), project.bays, bays))
    count = len(brushes)
    return Edit(f"{count} new brush{'es' * (count != 1)}", tuple(records))


def _with_material(project: Project, brush: Brush) -> tuple[str, ...]:
    if not brush.material or brush.material in project.materials:
        return project.materials
    count = len(project.materials) + 1
    if count > MOST_MATERIALS:
        raise BadValue("the number of materials", count, f"at most {MOST_MATERIALS}")
    return (*project.materials, brush.material)


def _with_cards(bays: tuple[Bay, ...], brushes: Sequence[str], bay: str) -> tuple[Bay, ...]:
    if not brushes:
        return bays
    if all(known.name != bay for known in bays):
        return (*bays, Bay(bay, tuple(brushes)))
    return tuple(Bay(known.name, (*known.brushes, *brushes)) if known.name == bay else known
                 for known in bays)  # fmt: skip


def moved_card(project: Project, brush: str, bay: str, place: int) -> Edit:
    """Move a card of the rack to a place in a bay."""
    bays = []
    for known in project.bays:
        cards = [name for name in known.brushes if name != brush]
        if known.name == bay:
            cards.insert(min(place, len(cards)), brush)
        bays.append(Bay(known.name, tuple(cards)))
    if tuple(bays) == project.bays:
        return Edit("Move card")
    return Edit(f"Move {brush}", (ItemRecord(("bays",), project.bays, tuple(bays)),))


def put_tileset(project: Project, tileset: TileSet) -> Edit:
    """Add a tile set; raises NameTaken."""
    if tileset.name in project.tilesets:
        raise NameTaken("tile set", tileset.name)
    record = ItemRecord(("tilesets", tileset.name), None, tileset)
    return Edit(f"Bring in {tileset.name}", (record,))


def put_block(project: Project, block: Block) -> Edit:
    """Add a block, or change the one of that name.  Raises BadValue for one too many, and
    UnknownName for faces that are not there."""
    for ref in block.tiles():
        project.tileset(ref.tileset).slot(ref.slot)
    edit = put_item(project, "blocks", block)
    if not edit or block.name in project.block_names:
        return edit
    count = len(project.block_names) + 1
    if count > MOST_BLOCKS:
        raise BadValue("the number of blocks", count, f"at most {MOST_BLOCKS}")
    names = (*project.block_names, block.name)
    table = ItemRecord(("block_names",), project.block_names, names)
    return Edit(edit.label, (*edit.records, table))


def put_prefab(project: Project, prefab: Prefab) -> Edit:
    """Add a prefab, or change the one of that name."""
    return put_item(project, "prefabs", prefab)


def free_name(stem: str, *taken: Iterable[str]) -> str:
    """`stem`, or with the first number behind it that none of the collections `taken` holds; one
    that ends in a number counts on."""
    used = {name for names in taken for name in names}
    return next(name for name in _names(stem) if name not in used)


def _names(stem: str) -> Iterator[str]:
    yield stem
    words, _, last = stem.rpartition(" ")
    counts_on = bool(words) and last.isdecimal()
    first, word = (int(last) + 1, words) if counts_on else (2, stem)
    for number in count(first):
        yield f"{word} {number}"
