"""Bodies by the geometry kernel; imported in the engine and by the command line alone."""
