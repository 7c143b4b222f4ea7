"""Cuts that let a blank give way: drawn, and proposed as gores or from the outline inwards."""
