"""Which faces can be developed, and their exact flats: ruled forms, fitted maps, layers of a sheet."""
