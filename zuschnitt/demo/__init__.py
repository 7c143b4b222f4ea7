"""The demo: the workshop of a small coffee roastery, made up."""
