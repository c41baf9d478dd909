"""What stands outside and is talked to: rod supplier and gauges, each behind one interface."""
