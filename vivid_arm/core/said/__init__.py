"""What is said of it: verdicts, next steps, opened figures, cautions."""
