"""The rocker's station."""
