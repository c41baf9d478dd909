"""Practice engines: a hidden truth that behaves under the hands like a real one."""
