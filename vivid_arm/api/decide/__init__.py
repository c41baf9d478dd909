"""Deciding: lengths, the rod, the box."""
