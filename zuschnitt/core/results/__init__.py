"""One file for each kind of result: what it holds, its figures, the files it writes, its part of the report."""
