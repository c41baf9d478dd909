"""What leaves: the order sheet as PDF, CSV and JSON."""
