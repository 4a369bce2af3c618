"""`python -m golden_almanac`."""

from .cli import main

main()
