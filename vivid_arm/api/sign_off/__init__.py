"""Checks, signature, report."""
