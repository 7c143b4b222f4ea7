"""A form as interlocking plates: sections, slots, how they go together, laid out flat."""
