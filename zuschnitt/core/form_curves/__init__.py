"""Curves on a form: drawn through points, along and beside edges, cut by planes."""
