"""Forms: faces on true surfaces, edges, triangles with surface parameters; and their kernel."""
