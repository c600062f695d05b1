"""The glTF validator, an npm package that is only needed for tests."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
PACKAGE = "gltf-validator@2.0.0-dev.3.10"


@pytest.fixture(scope="session")
def validated():
    """validated(bytes, folder) -> (issues, info) of the validator."""
    home = Path(os.environ.get("TOPION_NODE_TOOLS", ROOT / ".venv" / "node"))
    if not (home / "node_modules" / "gltf-validator").exists():
        npm = shutil.which("npm")
        if npm is None or shutil.which("node") is None:
            assert not os.environ.get("CI"), "node and npm are needed to validate glTF"
            pytest.skip("node and npm are needed to validate glTF")
        home.mkdir(parents=True, exist_ok=True)
        command = [npm, "install", "--prefix", str(home), "--no-audit", "--no-fund", PACKAGE]
        subprocess.run(command, check=True, capture_output=True)
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
