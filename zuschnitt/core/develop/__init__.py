"""Developing: from picked faces of a form to a blank and the correspondence between them."""
