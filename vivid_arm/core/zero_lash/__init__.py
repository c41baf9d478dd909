"""The length at zero lash: trials, other ways of measuring, several combined, what to expect."""
