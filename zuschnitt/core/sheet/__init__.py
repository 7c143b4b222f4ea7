"""Sheet parts: walls and bends, flat first; the folded body and the flat pattern come from the same numbers."""
