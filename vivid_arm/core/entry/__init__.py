"""What is typed: lengths and turns, rod conventions, instruments."""
