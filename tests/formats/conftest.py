"""Outside validators of glTF and SVG, npm packages that are only needed for tests."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
GLTF, SVG = "gltf-validator@2.0.0-dev.3.10", "vnu-jar@24.10.17"


def _installed(package: str, *programs: str) -> Path:
    """The folder in which an npm package lies; the test is left out where it cannot be run."""
    home = Path(os.environ.get("TOPION_NODE_TOOLS", ROOT / ".venv" / "node"))
    if not (home / "node_modules" / package.partition("@")[0]).exists():
        lacking = [name for name in ("npm", *programs) if shutil.which(name) is None]
        if lacking:
            assert not os.environ.get("CI") or lacking == ["java"], f"{lacking[0]} is needed"
            pytest.skip(f"{lacking[0]} is needed for {package}")
        home.mkdir(parents=True, exist_ok=True)
        command = ["npm", "install", "--prefix", str(home), "--no-audit", "--no-fund", package]
        subprocess.run(command, check=True, capture_output=True)
    return home


@pytest.fixture(scope="session")
def svg_faults():
    """svg_faults(bytes, folder) -> what the checker of the web's own standards says of an SVG."""
    home = _installed(SVG, "java")
    if shutil.which("java") is None:
        pytest.skip("java is needed to check SVG")
    jar = home / "node_modules" / "vnu-jar" / "build" / "dist" / "vnu.jar"

    def run(data: bytes, folder: Path) -> str:
        path = folder / "plan.svg"
        path.write_bytes(data)
        command = ["java", "-jar", str(jar), "--svg", "--stdout", "--exit-zero-always", str(path)]
        return subprocess.run(command, capture_output=True, text=True, check=True).stdout

    return run


@pytest.fixture(scope="session")
def validated():
    """validated(bytes, folder) -> (issues, info) of the validator."""
    home = _installed(GLTF, "node")
    script = ROOT / "tests" / "tools" / "validate_gltf.mjs"

    def run(data: bytes, folder: Path):
        path = folder / "room.glb"
        path.write_bytes(data)
        done = subprocess.run(
            ["node", str(script), str(home), str(path)], capture_output=True, text=True, check=True
        )
        report = json.loads(done.stdout)
        return report["issues"], report["info"]

    return run
