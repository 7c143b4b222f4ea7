"""How much a development may be asked to do."""

MOST_TRIANGLES = 2_000_000
