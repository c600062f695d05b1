"""An extension of Topion: what the tide leaves, and what it reaches."""

from tidewrack.command import strandline_brush
from tidewrack.rule import AboveTide
from tidewrack.stranded import Stranded
from tidewrack.strandline import Strandline
from tidewrack.tide_text import TideText
from topion.extending import Door


def extend(door: Door) -> None:
    """What the entry point names: it is called once, at start."""
    door.brush(Strandline)
    door.rule(AboveTide)
    door.check(Stranded)
    door.export(TideText)
    door.command("strandline", "Lay a strandline brush on the rack", strandline_brush)
