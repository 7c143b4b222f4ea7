"""The job: its rows and values, what is computed for them, its edits, its file and its papers."""
