"""Zuschnitt: from a form in space to its blank, and back."""

__version__ = "0.1.0"
