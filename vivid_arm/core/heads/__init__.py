"""What the measured valves say together: spread, mistakes, valves nobody measured."""
