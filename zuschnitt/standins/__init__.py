"""Machines simulated from exported files alone, as if another company had made them; nothing of the core is used."""
