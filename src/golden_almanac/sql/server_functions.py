"""Functions of database servers by which a statement would reach past the tables that it reads."""

from __future__ import annotations

import re
from typing import Any

from ..support.errors import ExpressionError

#: Files, settings, locks, other servers, time, and who is asking.
_REACHING = re.compile(
    r"(pg_|lo_|dblink|txid_|inet_|xml|.*_to_xml|current_setting|set_config|nextval|setval|currval|load_file|sleep|"
    r"benchmark|.*_lock|version$|current_(user|role|database|schema|catalog)|session_user|user$|database$|"
    r"load_extension|reflect|java_method|input_file_|spark_partition_id|assert_true|raise_error)"
)


def refuse_reaching(tree: Any, query: str) -> None:
    """Refuses a statement that calls such a function. Raises ExpressionError."""
    from sqlglot import exp

    for node in tree.find_all(exp.Anonymous, exp.Func):
        name = (node.name if isinstance(node, exp.Anonymous) else node.sql_name()).lower()
        if _REACHING.match(name):
            raise ExpressionError(query, f"calls {name}, which reaches past the tables", "Select from the tables only.")
