"""The command line: parses, calls the public names, prints. Nothing else."""

from .app import main

__all__ = ["main"]
