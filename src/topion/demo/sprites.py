"""The things of Brinehollow, drawn as letters; the light comes from the north-west."""

from __future__ import annotations

import numpy as np

from topion.demo.palette import colour
from topion.grid.arrays import Rgba

_LETTERS = {
    "w": "wood", "W": "wood light", "v": "wood dark", "V": "wood deep",
    "i": "iron", "k": "ink", "y": "lamp", "Y": "lamp light",
    "b": "brine", "B": "brine light", "d": "brine dark", "o": "brine rose",
    "r": "reed", "R": "reed light", "q": "reed dark", "h": "reed head",
    "g": "stone", "G": "stone light", "j": "stone dark",
    "u": "brick", "U": "brick light", "n": "brick dark", "N": "brick deep",
}  # fmt: skip

ART = {
    "Lantern post": """
..kkkkkk..
.kiiiiiik.
..kYYyyk..
..kYYyyk..
..kYyyyk..
..kyyyyk..
.kiiiiiik.
...kWvk...
...kWvk...
...kWvk...
...kWvk...
...kWvk...
...kWvk...
...kWvk...
...kWvk...
...kWvk...
..kwWvVk..
..kwWvVk..
.ssssssss.
..ssssss..
""",
    "Salt cone": """
.......BB.......
......BBBb......
......BBbb......
.....BBBbbd.....
.....BBbbbd.....
....BBBbbbdd....
....BBbbobdd....
...BBBbbbbbdd...
...BBbbbbbbdd...
..BBBbbobbbddd..
..BBbbbbbbbbdd..
.BBBbbbbbbbbddd.
.BBbbbobbbobbdd.
BBBbbbbbbbbbbddd
BBbbbbbbbbbbdddd
.dbbbbbbbbbddddd
..sssssssssssss.
""",
    "Reed tall": """
...R......
...R...h..
.h.r...h..
.h.r.R.h..
.r.r.r.r..
.r.rRr.rR.
Rr.rrr.rr.
rr.rrr.rr.
rrrrrr.rr.
.rrrrrrrr.
.rrrrrrr..
.qrrrrrr..
.qqrrrrq..
..qrrrrq..
..qqrrq...
..qqqqq...
.ssqqqss..
""",
    "Reed short": """
..R...R..
R.r.R.r..
r.r.r.rR.
rrr.r.rr.
.rrrrrrr.
.rrrrrr..
.qrrrrq..
.qqrrqq..
..qqqq...
.ssssss..
""",
    "Bulrush": """
....h...
....h...
.h..h...
.h..h.h.
.h..r.h.
.r..r.h.
.r..r.r.
.rR.r.r.
..r.rRr.
R.r.rr..
rrrrrr..
.rrrrr..
.qrrrq..
..qrqq..
..qqq...
.sssss..
""",
    "Crate": """
.kkkkkkkkkkkkkk.
kWWWWWWWWWWWWWWk
kWwwwwwwwwwwwwvk
kWwwwwwwwwwwwwvk
kVVVVVVVVVVVVVVk
kWWwwwwwwwwwwvvk
kWvVwwwwwwwwVvvk
kWwvVwwwwwwVvwvk
kWwwvVwwwwVvwwvk
kWwwwvVwwVvwwwvk
kWwwwwvVVvwwwwvk
kWwwwwVvvVwwwwvk
kWwwwVvwwvVwwwvk
kWvVVvwwwwvVVvvk
kVVVVVVVVVVVVVVk
.kkkkkkkkkkkkkk.
.sssssssssssssss
""",
    "Pale": """
..kk..
.kWWk.
kWWvvk
kWwvVk
kWwvVk
kWwvVk
kWwvVk
kWwvVk
kWwvVk
kWwvVk
kwwvVk
.kvVk.
.ssss.
""",
    "Gate post": """
..kkkkkk..
.kWWWwwvk.
kWWwwwvvVk
kkkkkkkkkk
.kiwwvvik.
.kWwwvvVk.
.kWwwvvVk.
.kWwwvvVk.
.kiiiiiik.
.kWwwvvVk.
.kWwwvvVk.
.kWwwvvVk.
.kWwwvvVk.
.kWwwvvVk.
.kwwvvVVk.
.ssssssss.
..ssssss..
""",
    "Pebbles": """
..GG....
.Ggjj.G.
.gjj.Ggj
..s..gjj
.Gj...s.
.jj.....
..s.....
""",
    "Post": """
.kkkk.
kWWwvk
kWwvvk
kkkkkk
kWwvVk
kWwvVk
kWwvVk
kWwvVk
kiiiik
kWwvVk
kWwvVk
kwwvVk
.kkkk.
.sssss
""",
    "Bucket": """
...kkkk...
..k....k..
.k......k.
.kkkkkkkk.
kBBbbbbbbk
kWkkkkkkvk
kWWwwwwvVk
kiiiiiiiik
kWWwwwwvVk
.kWwwwvVk.
.kiiiiiik.
.kWwwwvVk.
..kkkkkk..
..sssssss.
""",
    "Door": """
.kkkkkkkkkk.
kVVVVVVVVVVk
kVvwwvwwvwVk
kVvwwvwwvwVk
kVvwwvwwvwVk
kViiiiiiiiVk
kVvwwvwwvwVk
kVvwwvwwvwVk
kVvwwvwwyyVk
kVvwwvwwvwVk
kVvwwvwwvwVk
kViiiiiiiiVk
kVvwwvwwvwVk
kVvwwvwwvwVk
kVvwwvwwvwVk
kkkkkkkkkkkk
""",
    "Plank door": """
kkkkkkkkkkkk
kVwVwwVwwVWk
kVvVvwVvwVwk
kiiiiiiiiiik
kVvVvwVvwVwk
kVvVvwVvwVwk
kVvVvwVvwVwk
kVvVvwVkkVwk
kVvVvwkiiVwk
kVvVvwVkkVwk
kVvVvwVvwVwk
kVvVvwVvwVwk
kiiiiiiiiiik
kVvVvwVvwVwk
kVvVvvVvvVvk
kkkkkkkkkkkk
""",
    "Valve wheel": """
....kkkk....
..kkuUUukk..
.kuUkuukUuk.
.kUk.uu.kUk.
kuk..uu..kuk
kUuuuNNuuuuk
kuuuuNNuuunk
kuk..un..knk
.kuk.un.knk.
.kunkunknnk.
..kkunnnkk..
....kkkk....
.....ii.....
.....ii.....
....kiik....
...ssssss...
""",
    "Gull": """
...BB.....
..BkBB....
.yBBBB....
...BBBbbk.
...BBbdddk
...bBbddk.
....bbd...
....y.y...
...ssss...
""",
    "Salt token": """
...BBBBB...
..BbbbbbB..
.BbBBBBbdB.
BbBBooBBbdB
BbBooooBbdB
BbBooooBbdd
BbBBooBBddd
.bbBBBBddd.
..bbbdddd..
...ddddd...
""",
    "Spring plate": """
kkkkkkkkkkkkkk
kUUUUUUUUUUUnk
kkkkkkkkkkkkkk
...ik....ik...
....ik..ik....
...ki....ki...
....ik..ik....
...ki....ki...
.kkkkkkkkkkkk.
.ssssssssssss.
""",
    "Signal flag": """
.kW...........
.kWuuUUUuu....
.kWuUUUUUuuuu.
.kWuuUUUuuuuu.
.kWuuuuuuuun..
.kWnnuunnn....
.kW...........
.kW...........
.kv...........
.kv...........
.kv...........
.kv...........
.kv...........
.kv...........
kwWvk.........
sssss.........
""",
    "Boot peg": """
..kk......
.kWvk.....
.kWvk.kkk.
.kWvkkwwVk
.kWvvwwVVk
.kWvkkkkk.
.kWvk.....
.kWvk.....
.kWvk.....
kwWvVk....
ssssss....
""",
    "Turnover wheel": """
....kkkk....
..kkrRRrkk..
.krRrkkrRrk.
.kRk.rr.kRk.
krk..rr..krk
kRrrryyrrrrk
krrrryyrrrqk
krk..rq..kqk
.krk.rq.kqk.
.kqrkrqkqqk.
..kkrqqqkk..
....kkkk....
.....ii.....
.....ii.....
....kiik....
...ssssss...
""",
    "Scald vent": """
.kkkkkkkkkk.
kiiiiiiiiiik
kikikikikikk
kiiiiiiiiiik
.ssssssssss.
""",
    "Steam puff": """
..BBB...
.BBBBBB.
BBBBbbBB
BBbbbbbB
.BbbbbB.
..BBbB..
""",
    "Rowing boat": """
..........kkkkkkkk............
......kkkkWWWWWWWWkkkk........
...kkkWWWwwwwwwwwwwwwWkkkk....
.kkWWwwwVVVVVVVVVVVVVVwwwWkkk.
kWWwwVVVVvvvVVvvvVVvvvVVVwwwWk
kWwVVVVVVvvvVVvvvVVvvvVVVVVVwk
kwwVVVVVVvvvVVvvvVVvvvVVVVVVvk
.kwwVVVVVvvvVVvvvVVvvvVVVVvvk.
.kkwwwVVVVVVVVVVVVVVVVVVvvkk..
...kkkwwwwwwwwwwwwwwvvvkkk....
......kkkkkvvvvvvvkkkkk.......
...ssssssskkkkkkkkssssss......
.....sssssssssssssssss........
""",
}


def sprite(name: str) -> Rgba:
    """(h, w, 4) pixels of a drawn thing."""
    rows = ART[name].strip("\n").split("\n")
    width = max(len(row) for row in rows)
    out = np.zeros((len(rows), width, 4), np.uint8)
    for y, row in enumerate(rows):
        for x, letter in enumerate(row):
            if letter == "s":
                out[y, x] = colour("shade", 80)
            elif letter != ".":
                out[y, x] = colour(_LETTERS[letter])
    return out
