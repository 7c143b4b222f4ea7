"""Forms: faces on true surfaces, edges, triangles with surface parameters, and what one may ask of them."""
