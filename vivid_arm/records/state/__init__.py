"""Where a build stands, computed from its rows and the log every time it is asked."""
