"""The simulated laser: reads a cut file with a reader of its own, and says what it would do and what goes wrong."""
