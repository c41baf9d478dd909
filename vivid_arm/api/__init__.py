"""The web interface: read, call the core, keep, answer."""
