"""A drawing made ready for a machine that cuts: kerf, leads, bridges, order."""
