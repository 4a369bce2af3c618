"""Rows on an engine of their own: every look is a statement there, and only cells and a stated sample travel."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np
import numpy.typing as npt

from ...sql.content_numbers import PRIME, content_number, row_number
from ...sql.expressions import quote_name
from ...support import progress
from ...support.errors import BudgetError
from ...support.parallel import stoppable
from .. import memory_budget
from ..arrow_arrays import encoded, wholes
from ..held_store import Held
from ..query_bounds import ROWS_A_SECOND, SECONDS
from ..sql_store import CELL, SqlStore
from ..store import ROW, Abilities, Labels, Store
from .adapter import Adapter
from .closed_periods import Closed, key_of, plan_of, put_together, sample_together
from .translation import BASE, beside_sql, translated

if TYPE_CHECKING:
    import pyarrow as pa

#: Statements that reading and scanning a table with a date, six dimensions and four measures takes.
STATEMENTS = 20
#: Bytes of rows that are fetched at most, so that this process stays small whatever the machine has.
_MOST_FETCHED = 512 * memory_budget.MB
#: Answers that are kept, and rows of one that is.
_MOST_KEPT, _SHORT = 200, 20_000


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Remote(SqlStore):
    """Rows that an `adapter` reaches. `columns` are names with their SQL over the relation and their type; `condition`
    the rows kept, as safe SQL over the columns."""

    abilities: ClassVar[Abilities] = Abilities(in_order=False, groups_in_sql=True, whole_bits=62, estimates=False)

    adapter: Adapter
    listed: tuple[tuple[str, str, str], ...]
    relation: str = BASE
    condition: str | None = None
    memory: int = 1024 * memory_budget.MB
    closed: Closed | None = None
    #: Seconds that each statement took, of all that reading and asking this table has made.
    _took: list[float] = field(default_factory=list)
    _made: dict[Any, Any] = field(default_factory=dict)

    @property
    def columns(self) -> tuple[str, ...]:
        return tuple(name for name, _, _ in self.listed)

    @property
    def together(self) -> tuple[int, int]:
        return self.adapter.groupings

    def arrow(self) -> pa.Table:
        if "arrow" not in self._made:
            size = self.rows * len(self.columns) * CELL
            if size > _MOST_FETCHED:
                raise BudgetError(
                    f"{self.rows:,} rows of {self.adapter.shown} are more than is fetched at once "
                    f"({memory_budget.said(_MOST_FETCHED)}): they take about {memory_budget.said(size)}. Keep fewer "
                    "with a condition, or ask what needs cells only."
                )
            self._made["arrow"] = self._in_order("TRUE")[0]
        return self._made["arrow"]

    def schema(self) -> pa.Schema:
        import pyarrow as pa

        kinds = {"text": pa.string(), "date": pa.date32(), "datetime": pa.timestamp("us"), "boolean": pa.bool_()}
        whole = {name for name, sql, kind in self.listed if kind == "number" and "BIGINT" in sql}
        return pa.schema(
            [(name, pa.int64() if name in whole else kinds.get(kind, pa.float64())) for name, _, kind in self.listed]
        )

    def whole(self) -> pa.Table:
        """All rows as the engine gives them."""
        return stoppable(lambda: self.adapter.run(self._told("SELECT * FROM source", {})), self.adapter.cancel)

    def codes(self, name: str) -> tuple[npt.NDArray[np.signedinteger[Any]], Labels]:
        if ("codes", name) not in self._made:
            self._made["codes", name] = encoded(self.arrow().column(name))
        return self._made["codes", name]  # type: ignore[no-any-return]

    def query(self, sql: str, beside: Mapping[str, Any] | None = None) -> pa.Table:
        told = self._told(sql, beside or {})
        if ("answer", told) not in self._made:
            found = self._incremental(sql, beside or {}) if self.closed is not None else None
            found = self._run(told) if found is None else found
            kept = self._made.setdefault("kept", [])
            if found.num_rows > _SHORT or len(kept) >= _MOST_KEPT:
                return found
            kept.append(told)
            self._made["answer", told] = found
        return self._made["answer", told]

    def _run(self, told: str) -> pa.Table:
        done, seconds = len(self._took), sum(self._took)
        text = f"{self.adapter.shown}, statement {done + 1}" + (f" of about {STATEMENTS}" if done < STATEMENTS else "")
        progress.say(text + progress.share(done, STATEMENTS, seconds))
        began = time.monotonic()
        found = stoppable(lambda: self.adapter.run(told), self.adapter.cancel)
        self._took.append(time.monotonic() - began)
        return found

    def _incremental(self, sql: str, beside: Mapping[str, Any]) -> pa.Table | None:
        """The answer from what is kept of it and what is new; None where it cannot be put together."""
        plan, closed = plan_of(sql), self.closed
        if plan is None or closed is None or closed.column not in self.columns:
            return None
        select = self._select(numbered=False)
        return closed.answer(
            lambda until: key_of(select, sql, beside, until),
            lambda rows: self._run(self._told(sql, beside, rows)),
            lambda answers: put_together(answers, plan),
        )

    def foreign(self, sql: str) -> pa.Table:
        told, seconds = self._told(sql, {}), SECONDS + self.rows / ROWS_A_SECOND
        return stoppable(lambda: self.adapter.bounded(told, seconds), self.adapter.cancel)

    def _told(self, sql: str, beside: Mapping[str, Any], rows: str | None = None) -> str:
        """A statement of the house in the engine's dialect; over some of the rows only, where a condition is given."""
        relations = {"source": self._select(numbered=False), "numbered": self._select(numbered=True)}
        if rows is not None:
            relations = {name: f"SELECT * FROM ({sql}) AS some_rows WHERE {rows}" for name, sql in relations.items()}
        relations |= {name: beside_sql(table) for name, table in beside.items()}
        return translated(sql, self.adapter, relations)

    def _select(self, *, numbered: bool) -> str:
        key = ("select", numbered)
        if key not in self._made:
            shown = [f"{sql} AS {quote_name(name)}" for name, sql, _ in self.listed]
            inner = f"SELECT {', '.join(shown)} FROM {self.relation}"
            if self.condition is not None:
                inner = f"SELECT * FROM ({inner}) AS kept WHERE {self.condition}"
            if numbered:
                inner = f"SELECT *, {row_number(self._kinds)} AS {quote_name(ROW)} FROM ({inner}) AS rows_kept"
            self._made[key] = inner
        return str(self._made[key])

    @property
    def _kinds(self) -> list[tuple[str, str]]:
        return [(name, kind) for name, _, kind in self.listed]

    def dropped(self, names: Sequence[str]) -> Store:
        # A condition over columns that go is met before they do.
        return self._again(tuple(one for one in self.listed if one[0] not in set(names)))

    def recast(self, columns: Mapping[str, str]) -> Store:
        made = dict(columns)
        return self._again(
            tuple(
                (name, made.get(name, quote_name(name)), "text" if name in made else kind)
                for name, _, kind in self.listed
            ),
            renewed=True,
        )

    def _again(self, listed: tuple[tuple[str, str, str], ...], *, renewed: bool = False) -> Store:
        if self.condition is None and not renewed:
            return replace(self, listed=listed, _made={})
        plain = listed if renewed else tuple((name, quote_name(name), kind) for name, _, kind in listed)
        inner = f"({self._select(numbered=False)}) AS before"
        return replace(self, relation=inner, listed=plain, condition=None, _made={})

    def slabs(self) -> list[str]:
        return ["TRUE"]

    def kept(self, condition: str) -> tuple[Store, npt.NDArray[np.bool_] | None]:
        both = condition if self.condition is None else f"({self.condition}) AND ({condition})"
        return replace(self, condition=both, _made={}), None

    def release(self) -> None:
        self.adapter.close()

    def held(self, condition: str, numbers: Any, first: int) -> tuple[Store, npt.NDArray[np.int64]]:
        rows, own = self._in_order(condition)
        return Held(rows), own

    def sampled(self, wanted: int, columns: Sequence[tuple[str, str]]) -> tuple[Store, npt.NDArray[np.int64]]:
        if ("sampled", wanted) not in self._made:
            self._made["sampled", wanted] = self._sorted(self._drawn(int(PRIME * (wanted / self.rows))))
        rows, own = self._made["sampled", wanted]
        return Held(rows.select([name for name, _ in columns])), own

    def _drawn(self, bound: int) -> pa.Table:
        """The rows whose numbers lie below a bound. A somewhat larger sample of the rows that are over is kept, as the
        bound falls where rows are added."""
        number, closed = content_number(self._kinds), self.closed
        if closed is None or closed.column not in self.columns:
            return self.query(f"SELECT * FROM numbered WHERE {number} < {bound}")
        wide = int(2 ** (np.ceil(2 * np.log2(max(1, bound))) / 2)) + 1
        sql = f"SELECT * FROM numbered WHERE {number} < {wide}"
        key = key_of(self._select(numbered=True), sql, {}, closed.until)
        return closed.answer(
            lambda _: key,
            lambda rows: self._run(self._told(sql, {}, rows)),
            lambda answers: sample_together(answers, ROW, bound),
        )

    def _in_order(self, condition: str) -> tuple[pa.Table, npt.NDArray[np.int64]]:
        """Rows in the order of their numbers, which says nothing of them."""
        return self._sorted(self.query(f"SELECT * FROM numbered WHERE {condition}"))

    def _sorted(self, found: pa.Table) -> tuple[pa.Table, npt.NDArray[np.int64]]:
        # By number, then by all that may differ among rows that share one: the same order on every engine.
        rows = found.sort_by([(ROW, "ascending"), *((name, "ascending") for name in sorted(self.columns))])
        return rows.drop_columns([ROW]), np.asarray(wholes(rows.column(ROW)), dtype=np.int64)

    def most_held(self) -> int:
        return int(_MOST_FETCHED / (len(self.columns) * CELL))

    def first(self, count: int) -> pa.Table:
        if self.rows <= max(count, _SHORT):
            return self.arrow().slice(0, count)
        # Of the sample that is drawn anyway where there is one.
        drawn = next((made for (key, *_), made in self._keyed("sampled")), None)
        if drawn is None:
            bound = int(PRIME * min(1.0, 1.2 * count / self.rows))
            drawn = self._in_order(f"{content_number(self._kinds)} < {bound}")
        return drawn[0].slice(0, count)

    def _keyed(self, what: str) -> list[tuple[tuple[Any, ...], Any]]:
        return [(key, made) for key, made in self._made.items() if isinstance(key, tuple) and key[0] == what]

    def row_numbers(self, first: int) -> npt.NDArray[np.int64]:
        return self._in_order("TRUE")[1]

    def at(self, numbers: Sequence[int], known: Any) -> tuple[Store, npt.NDArray[np.int64]]:
        rows, own = self._in_order(f"{quote_name(ROW)} IN ({', '.join(map(str, numbers))})")
        places = np.unique(own, return_index=True)[1]
        return Held(rows.take(places.tolist())), own[places]
