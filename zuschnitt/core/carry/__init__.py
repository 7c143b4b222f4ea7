"""Carrying curves and artwork through the correspondence, both ways."""
