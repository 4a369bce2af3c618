"""Several tables: keys found between them, joins that count nothing twice, a star of tables as one."""

from .joining import join
from .links import Link, find_links
from .star import Tables, of_tables

__all__ = ["Link", "Tables", "find_links", "join", "of_tables"]
