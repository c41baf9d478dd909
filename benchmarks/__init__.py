"""Measurements, printed as tables: ``.venv/bin/python -m benchmarks``."""
