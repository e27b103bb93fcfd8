"""Closed solids as files: STL, triangles alone, in millimetres; and 3MF, which says its unit."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from typing import Any

import numpy as np

from bastler.shapes.kinds import Floats, Ints
from bastler.units import Unit, scale

HEAD = 80
"""Bytes before the count of triangles."""
EPOCH = (1980, 1, 1, 0, 0, 0)
"""The time of what is in an archive: equal solids are equal files."""
CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
TYPES = """<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" \
ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" \
ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>"""
RELATIONS = """<?xml version="1.0" encoding="UTF-8"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" \
Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>"""


def stl_bytes(points: Floats, triangles: Ints, unit: Unit) -> bytes:
    """A binary STL file of triangles (t, 3) of points (m, 3): it has no unit, so lengths are in millimetres."""
    corners = (np.asarray(points, float) * scale(unit, "mm"))[np.asarray(triangles)]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    long = np.linalg.norm(normals, axis=1, keepdims=True)
    record = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
    rows: Any = np.zeros(len(corners), record)
    rows["normal"] = np.divide(normals, long, out=np.zeros_like(normals), where=long > 0)
    rows["corners"] = corners
    head = b"Bastler, millimetres".ljust(HEAD, b"\0")
    return head + np.uint32(len(rows)).tobytes() + bytes(rows.tobytes())


def three_mf_bytes(points: Floats, triangles: Ints, unit: Unit) -> bytes:
    """A 3MF file (core specification 1.3) of triangles (t, 3) of points (m, 3), in their own unit."""
    out = io.StringIO()
    name = "millimeter" if unit == "mm" else "inch"
    out.write(f'<?xml version="1.0" encoding="UTF-8"?>\n<model unit="{name}" xml:lang="en-GB" xmlns="{CORE}"><resources>')
    out.write('<object id="1" type="model"><mesh><vertices>')
    out.writelines(f'<vertex x="{x:.6f}" y="{y:.6f}" z="{z:.6f}"/>' for x, y, z in np.asarray(points, float).tolist())
    out.write("</vertices><triangles>")
    out.writelines(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in np.asarray(triangles).tolist())
    out.write('</triangles></mesh></object></resources><build><item objectid="1"/></build></model>')
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, text in (("[Content_Types].xml", TYPES), ("_rels/.rels", RELATIONS), ("3D/3dmodel.model", out.getvalue())):
            archive.writestr(zipfile.ZipInfo(path, EPOCH), text, zipfile.ZIP_DEFLATED)
    return made.getvalue()


SOLID_FILES: dict[str, Callable[[Floats, Ints, Unit], bytes]] = {".stl": stl_bytes, ".3mf": three_mf_bytes}
"""What writes a solid, by the ending of the file."""
