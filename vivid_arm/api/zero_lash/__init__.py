"""The zero-lash station."""
