"""Golden Almanac."""
