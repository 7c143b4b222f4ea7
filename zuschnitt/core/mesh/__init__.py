"""Triangles: mended, opened, cut along planes, and where they cross."""
