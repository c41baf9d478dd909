"""Vivid Arm: pushrod length at the engine bench, from zero lash to an order."""

__version__ = "0.1.0"
