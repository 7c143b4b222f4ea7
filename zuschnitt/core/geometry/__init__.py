"""Curves, surfaces and how they are evaluated: arrays in, arrays out, without a kernel."""
