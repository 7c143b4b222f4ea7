"""Every tolerance of the program, named once. Lengths in mm, angles in radians."""

from math import radians

SMOOTH_ANGLE = radians(1.0)
"""Faces whose normals differ by less than this along their edge continue each other."""

JOIN = 1e-6
"""Developed edges join when they match within this part of their length."""

CURVE = 0.01
"""What is carried onto a form lies this near to what it stands for, as chords and as smooth curves."""

ARTWORK = 0.008
"""Curves of artwork that are neither lines nor arcs are flattened to this distance."""

OUTLINE = 0.001
"""Outlines of a blank that are neither lines nor arcs are flattened to this distance."""

OFF_FORM = 0.05
"""Points given as lying on the form may be this far off it before it is said."""
