"""One file for each kind of value in a sentence: how it is read, hashed, worded, picked."""

from .choice import choice
from .file import file, file_for, optional_file
from .flanges import flanges
from .gathered import sources
from .identities import identities
from .laid import laid_parts
from .material import material
from .number import number, optional_number
from .numbers import numbers
from .origin import origin
from .picks import edges, faces, needed_edges, needed_faces, some_faces, some_of
from .plane_points import picked_corners, picked_curves
from .rows import NONE, names_of, rows
from .rule import rule
from .seams import seams
from .several import several
from .shares import shares
from .sheets import sheets
from .sorts import sorts
from .source import optional_source, source
from .vector import direction, optional_points, point, points

__all__ = [
    "NONE",
    "choice",
    "direction",
    "edges",
    "faces",
    "file",
    "file_for",
    "flanges",
    "identities",
    "laid_parts",
    "material",
    "names_of",
    "needed_edges",
    "needed_faces",
    "number",
    "numbers",
    "optional_file",
    "optional_number",
    "optional_points",
    "optional_source",
    "origin",
    "picked_corners",
    "picked_curves",
    "point",
    "points",
    "rows",
    "rule",
    "seams",
    "several",
    "shares",
    "sheets",
    "some_faces",
    "some_of",
    "sorts",
    "source",
    "sources",
]
