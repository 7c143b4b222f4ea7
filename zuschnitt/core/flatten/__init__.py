"""Triangles laid flat. Knows triangles only, nothing of faces or forms."""
