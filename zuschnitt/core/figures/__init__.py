"""The figures of a drawing: one file for each kind, what it says and what it draws."""
