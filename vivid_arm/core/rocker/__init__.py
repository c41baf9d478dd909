"""The rocker: mechanism, sweep, dimension sheet, marks, what to change."""
