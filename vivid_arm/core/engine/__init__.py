"""The engine: layout and firing order, cam card and lobes, the base circle of each valve."""
