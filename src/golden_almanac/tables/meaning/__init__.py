"""What columns mean, before any statistics: natures of numbers, parts of dates, scenarios, units."""
