"""The readers in `examples`: what they draw of a bundle is what Topion draws."""

from __future__ import annotations

import io
import json
import shutil
import subprocess
import sys
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from topion.demo.kept import kept_demo
from topion.formats.bundle import bundle_bytes

EXAMPLES = Path(__file__).resolve().parents[1] / "examples"
ROOM = "Pump Cellar"
BROWSERS = ("chromium", "chromium-browser", "google-chrome", "google-chrome-stable")


@cache
def bundle() -> bytes:
    return bundle_bytes(kept_demo().data)


@cache
def drawn_by_topion(name: str = ROOM) -> np.ndarray:
    return kept_demo().room(name).render()[..., :3].astype(int)


def differing(picture: bytes, name: str = ROOM) -> float:
    """The share of pixels that differ by more than rounding."""
    found = np.asarray(Image.open(io.BytesIO(picture)).convert("RGB")).astype(int)
    wanted = drawn_by_topion(name)
    assert found.shape == wanted.shape
    return float((abs(found - wanted).max(axis=2) > 3).mean())


def run_python(tmp_path: Path, name: str) -> subprocess.CompletedProcess[str]:
    path = tmp_path / "bundle.json"
    path.write_bytes(bundle())
    command = [sys.executable, "-I", str(EXAMPLES / "read_bundle.py"), str(path), name,
               str(tmp_path / "room.png")]  # fmt: skip
    return subprocess.run(command, capture_output=True, text=True, check=False)


@pytest.mark.parametrize(("name", "most"), [(ROOM, 0.0), ("Sluice Yard", 0.01)])
def test_the_reader_in_plain_python_draws_a_room_with_its_things(tmp_path, name, most):
    assert run_python(tmp_path, name).returncode == 0
    assert differing((tmp_path / "room.png").read_bytes(), name) <= most


def test_the_reader_says_which_rooms_there_are(tmp_path):
    done = run_python(tmp_path, "Nowhere")
    assert done.returncode == 1
    assert "there is no room Nowhere; there are: Sluice Yard" in done.stderr


def test_the_readers_need_nothing_but_the_language():
    imports = [line for line in (EXAMPLES / "read_bundle.py").read_text().splitlines()
               if line.startswith(("import ", "from "))]  # fmt: skip
    names = {line.split()[1] for line in imports} - {"__future__"}
    assert names <= sys.stdlib_module_names
    script = (EXAMPLES / "read_bundle.js").read_text()
    assert "import " not in script and "require(" not in script


def test_both_readers_find_the_same_cells_and_things(tmp_path):
    node = shutil.which("node")
    if node is None:
        pytest.skip("node is needed to run the reader in JavaScript")
    (tmp_path / "bundle.json").write_bytes(bundle())
    script = (
        f"const m = require({json.dumps(str(EXAMPLES / 'read_bundle.js'))});"
        "const b = JSON.parse(require('fs').readFileSync(process.argv[1]));"
        f"const d = m.drawingOf(b, {json.dumps(ROOM)});"
        "console.log(JSON.stringify([d.width, d.height, d.steps.length,"
        " d.steps.filter((s) => s.prefab).map((s) => s.prefab)]));"
    )
    done = subprocess.run([node, "-e", script, str(tmp_path / "bundle.json")], text=True,
                          capture_output=True, check=True)  # fmt: skip
    wide, high, steps, prefabs = json.loads(done.stdout)
    assert (high, wide) == drawn_by_topion().shape[:2]
    room = kept_demo().data.room(ROOM)
    things = [t.prefab for _, la in room.bottom_up("things") for t in la.things.values()]
    assert sorted(prefabs) == sorted(things)
    assert steps > len(prefabs)


def test_the_page_draws_the_room_in_a_real_browser(tmp_path):
    browser = next((found for name in BROWSERS if (found := shutil.which(name))), None)
    if browser is None:
        pytest.skip("no browser is installed")
    for name in ("read_bundle.js", "read_bundle.html"):
        shutil.copy(EXAMPLES / name, tmp_path / name)
    plain = json.loads(bundle())
    plain["rooms"].sort(key=lambda room: room["room"]["name"] != ROOM)
    (tmp_path / "bundle.js").write_text(f"window.TOPION_BUNDLE = {json.dumps(plain)};")
    page = tmp_path / "read_bundle.html"
    told = '<script src="read_bundle.js"></script>'
    page.write_text(page.read_text().replace(told, f'<script src="bundle.js"></script>{told}'))
    page.write_text(page.read_text().replace("margin: 16px", "margin: 0")
                    .replace("<header>", '<header style="display: none">'))  # fmt: skip
    high, wide = drawn_by_topion().shape[:2]
    command = [browser, "--headless", "--no-sandbox", "--disable-gpu", "--hide-scrollbars",
               f"--user-data-dir={tmp_path / 'profile'}", "--force-device-scale-factor=1",
               f"--window-size={wide},{high}", "--virtual-time-budget=20000",
               f"--screenshot={tmp_path / 'page.png'}", page.as_uri()]  # fmt: skip
    subprocess.run(command, capture_output=True, check=True, timeout=120)
    shown = Image.open(tmp_path / "page.png").crop((0, 0, wide, high))
    out = io.BytesIO()
    shown.save(out, "png")
    assert differing(out.getvalue()) < 0.002
