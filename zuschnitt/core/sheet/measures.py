"""What the length of a flange is measured over, as it is written."""

MEASURES = ("over", "inside", "tangent")
"""Both outer faces, both inner ones, or its flat part alone."""
