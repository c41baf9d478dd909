"""Rows of the database: read, kept once, changed by version."""
