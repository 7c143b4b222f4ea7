"""The operations of the route card, one file each; the registry finds them by itself."""
