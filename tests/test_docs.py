"""What the documents show is true: examples read, chapters follow each other, links lead somewhere."""

from __future__ import annotations

import base64
import json
import re
from pathlib import Path

import pytest

from tests.rooms import sheet_picture
from topion.cli import main
from topion.formats.bundle import read_bundle
from topion.formats.exports import EXPORTS
from topion.formats.symbols.legend_files import read_legend
from topion.formats.symbols.texts import read_text_grids

DOCS = Path(__file__).resolve().parents[1] / "docs"
FORMATS = (DOCS / "FORMATS.md").read_text(encoding="utf-8")


def block_with(text: str) -> str:
    """The indented block of FORMATS.md that begins with some text."""
    start = FORMATS.index(f"    {text}")
    lines = []
    for line in FORMATS[start:].split("\n"):
        if line and not line.startswith("    "):
            break
        lines.append(line[4:])
    return "\n".join(lines)


def test_the_bundle_that_is_shown_reads_and_draws(tmp_path):
    picture = base64.b64encode(sheet_picture(2, 4, side=16).png).decode()
    plain = json.loads(block_with('{"format": "topion-bundle"').replace("iVBORw0KGgo…", picture))
    plain |= {"materials": ["Mud"], "bays": [], "block_names": [], "blocks": [], "brushes": []}
    path = tmp_path / "kiln.json"
    path.write_text(json.dumps(plain))
    project = read_bundle(path)
    assert project.name == "Kiln Row" and project.room("Court").info.size == (2, 4)
    things = dict(project.room("Court").bottom_up("things"))
    assert [t.prefab for la in things.values() for t in la.things.values()] == ["Post"]


def test_the_legend_that_is_shown_reads(tmp_path):
    path = tmp_path / "mills.json"
    path.write_text(block_with('{"format": "topion-legend"'))
    legend = read_legend(path)
    assert legend.by_symbol["@"].parts == ("Mud", "Post", "Rust")


def test_the_forms_of_text_that_are_shown_read_alike():
    for text in ("####\n#.@#\n####\n", "4#\n#.@#\n4#\n", "#4\n#.@#\n#4\n"):
        rows = read_text_grids(text.encode(), "a.txt").grids[0].rows()
        assert ["".join(row) for row in rows] == ["####", "#.@#", "####"]


def test_every_export_is_described():
    for kind in EXPORTS:
        assert f"`{kind}`" in FORMATS


def test_every_command_of_the_command_line_says_what_it_does(capsys):
    with pytest.raises(SystemExit):
        main(["--help"])
    listed = re.findall(r"^    ([a-z-]+)  ", capsys.readouterr().out, flags=re.M)
    assert {"new", "import", "export", "pack", "unpack", "open", "walk", "schema"} <= set(listed)
    keys = (DOCS / "KEYS.md").read_text(encoding="utf-8")
    for name in listed:
        assert f"`topion {name}`" in keys


@pytest.mark.parametrize("page", sorted(path.name for path in DOCS.glob("*.md")))
def test_links_of_a_page_lead_somewhere(page):
    text = (DOCS / page).read_text(encoding="utf-8")
    for link in re.findall(r"\]\(([^)#:]+)(?:#[^)]*)?\)", text):
        assert (DOCS / link).exists(), link


def test_the_guide_is_a_book_in_the_order_people_work():
    text = (DOCS / "GUIDE.md").read_text(encoding="utf-8")
    chapters = re.findall(r"^## (\d+)\. (.*)$", text, flags=re.M)
    assert [int(number) for number, _ in chapters] == list(range(1, len(chapters) + 1))
    for number, title in chapters:
        anchor = f"{number}-{re.sub(r'[^a-z0-9 -]', '', title.lower()).replace(' ', '-')}"
        assert f"(#{anchor})" in text
