"""The embedded engine, and where the rows of a table are: in memory or left in their file."""
