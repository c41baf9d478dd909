"""What the shop has learned from its engines."""
