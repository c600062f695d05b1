"""glTF 2.0: its head is read and checked here; its numbers are left to trimesh.

Source: Khronos Group, "glTF 2.0 Specification", 2021.
"""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np

from topion.errors import BadFile
from topion.formats.meshes.mesh import MOST_TRIANGLES, srgb

# what changes neither corners nor triangles, so that not knowing it does no harm
_HARMLESS = ("KHR_materials_", "KHR_lights_", "KHR_texture_", "EXT_texture_", "KHR_animation_",
             "KHR_xmp", "EXT_lights_", "KHR_audio", "MSFT_texture_")  # fmt: skip
_READ = ("KHR_mesh_quantization",)
_BYTES = {5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4}
_WIDTH = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}
_GLB, _JSON = b"glTF", 0x4E4F534A
Head = dict[str, Any]


def prepared(file: str, suffix: str, data: bytes) -> bytes:
    """The same glTF, sound as far as its head tells, with colours in sRGB.

    Raises BadFile for a head that is broken, for what is declared and not there, and for
    extensions that hold corners or triangles in forms that are not read, by name.
    """
    text, rest = _parts(file, data) if suffix == ".glb" else (data, b"")
    try:
        head = json.loads(text)
        _check(file, head)
        _colour_in_place(head)
        out = json.dumps(head).encode()
    except (ValueError, KeyError, TypeError, AttributeError, IndexError, RecursionError):
        raise BadFile(file, "is not a sound glTF file: its head is broken") from None
    if suffix != ".glb":
        return out
    out += b" " * (-len(out) % 4)
    chunk = struct.pack("<II", len(out), _JSON) + out
    return _GLB + struct.pack("<II", 2, 12 + len(chunk) + len(rest)) + chunk + rest


def _parts(file: str, data: bytes) -> tuple[bytes, bytes]:
    """The text of the head of a GLB, and the chunks behind it."""
    if len(data) < 20 or data[:4] != _GLB:
        raise BadFile(file, "is not a sound GLB file: its head is broken")
    version, _, length, kind = struct.unpack("<IIII", data[4:20])
    if version != 2:
        raise BadFile(file, f"is glTF of version {version}; version 2 is read")
    if kind != _JSON or 20 + length > len(data):
        raise BadFile(file, "is not a sound GLB file: its head is broken")
    return data[20 : 20 + length], data[20 + length :]


def _check(file: str, head: Head) -> None:
    version = str(head["asset"]["version"])
    if not version.startswith("2"):
        raise BadFile(file, f"is glTF of version {version[:8]}; version 2 is read")
    for name in head.get("extensionsRequired", []):
        if str(name) not in _READ and not str(name).startswith(_HARMLESS):
            raise BadFile(file, f"needs {str(name)[:60]}, which is not read; write it without")
    accessors = head.get("accessors", [])
    declared = sum(int(accessor["count"]) for accessor in accessors)
    if declared > 12 * MOST_TRIANGLES or any(int(a["count"]) < 0 for a in accessors):
        raise BadFile(file, f"declares {declared:,} numbers, which is too many")
    for mesh in head.get("meshes", []):
        for primitive in mesh["primitives"]:
            if primitive.get("mode", 4) >= 4:
                _check_primitive(file, head, primitive)


def _check_primitive(file: str, head: Head, primitive: Head) -> None:
    _check_accessor(file, head, primitive["attributes"]["POSITION"], "corners", "VEC3")
    if "indices" in primitive:
        _check_accessor(file, head, primitive["indices"], "triangles", "SCALAR")


def _check_accessor(file: str, head: Head, number: int, what: str, kind: str) -> None:
    place = f"accessor {number}"
    if not 0 <= number < len(head.get("accessors", [])):
        raise BadFile(file, f"keeps {what} in an accessor that is not there", place)
    accessor = head["accessors"][number]
    if accessor["type"] != kind:
        reason = f"keeps {what} as {str(accessor['type'])[:10]} instead of {kind}"
        raise BadFile(file, reason, place)
    if "sparse" in accessor:
        raise BadFile(file, f"keeps {what} in a sparse accessor, which is not read", place)
    if "bufferView" not in accessor:
        raise BadFile(file, f"keeps {what} in a compressed form that is not read", place)
    view = head["bufferViews"][accessor["bufferView"]]
    size = _BYTES[accessor["componentType"]] * _WIDTH[kind]
    stride = view.get("byteStride", size)
    needed = accessor.get("byteOffset", 0) + max(0, accessor["count"] - 1) * stride + size
    available = min(view["byteLength"], head["buffers"][view["buffer"]]["byteLength"])
    if accessor["count"] and needed > available:
        reason = f"declares {accessor['count']:,} {what}, but is too short for them"
        raise BadFile(file, reason, place)


def _colour_in_place(head: Head) -> None:
    """Factors of colours are linear light; pictures and our own colours are sRGB."""
    for material in head.get("materials", []):
        shine = material.get("pbrMetallicRoughness", {})
        if "baseColorFactor" in shine:
            factor = np.array(shine["baseColorFactor"], np.float64)
            rgb = srgb(np.nan_to_num(factor[:3])) / 255.0
            shine["baseColorFactor"] = [*rgb.tolist(), 1.0]
