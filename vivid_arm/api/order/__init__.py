"""Orders and the order sheet."""
