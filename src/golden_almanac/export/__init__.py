"""One output format a file."""
