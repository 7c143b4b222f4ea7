"""All computation. Imports no Qt; the geometry kernel is imported by ``form.kernel`` alone."""
