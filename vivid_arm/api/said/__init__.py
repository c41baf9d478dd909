"""Verdicts and opened figures as every step gives them."""
