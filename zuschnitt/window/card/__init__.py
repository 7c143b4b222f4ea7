"""The route card: rows, sentences, values."""
