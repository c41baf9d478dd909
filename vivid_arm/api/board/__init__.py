"""The builds board."""
