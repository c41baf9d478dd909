"""The simulated outside world that ships with the program: a rod supplier, a gauge."""
