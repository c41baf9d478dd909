"""One module a subject."""
