"""The program as one among others on a desktop: its icon, its entry in the menus, its file type."""
