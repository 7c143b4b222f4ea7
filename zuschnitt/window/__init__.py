"""The window: shows results and sends edits. Imports the core, never the geometry kernel."""
