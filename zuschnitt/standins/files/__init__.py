"""Cut files as the simulated machines read them."""
