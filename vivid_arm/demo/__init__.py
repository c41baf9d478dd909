"""A sample shop, invented, made through the same core and records as real work."""
