"""The two stages, and how each looks at what it shows."""
