"""Runs routes in a process of its own: progress, cancel, crash and restart."""
