"""Practice engines: the course, the bench, the ending."""
