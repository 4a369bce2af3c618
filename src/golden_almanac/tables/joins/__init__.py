"""Several tables: keys found between them, joins that count nothing twice, a star of tables as one."""

from .key_discovery import Link, find_links
from .left_join import join
from .star_schema import Tables, of_tables

__all__ = ["Link", "Tables", "find_links", "join", "of_tables"]
