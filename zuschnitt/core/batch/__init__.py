"""Many at once: a table of values gives the files of a job once for each of its rows."""
