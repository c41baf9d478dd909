"""What is kept: instruments, builds, valves and the append-only reading log."""
