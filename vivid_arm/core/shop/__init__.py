"""What a shop learns from all its engines: its readings, its hands, its tools."""
