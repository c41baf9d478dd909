"""The rods: preload, lengths that can be bought, grouping, growth, chances, strength, cutting."""
