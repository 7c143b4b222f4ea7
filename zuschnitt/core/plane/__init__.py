"""Contours and figures of the plane: thinned, joined, combined."""
