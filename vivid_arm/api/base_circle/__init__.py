"""The crank wheel: heel windows and plans of stops."""
