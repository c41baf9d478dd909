"""The heads in plan, readings as files."""
