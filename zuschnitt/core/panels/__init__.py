"""Developable panels between curves."""
