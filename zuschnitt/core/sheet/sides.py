"""The sides of a block, as they are called."""

SIDES = ("bottom", "top", "front", "back", "left", "right")
"""Of a block that lies over x, y and z: the bottom is at z = 0, the front at y = 0, the left at x = 0."""
