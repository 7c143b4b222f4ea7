"""The simulated press brake: finds an order in which the bends of a flat can be made, by its own geometry."""
