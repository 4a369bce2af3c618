"""`ga.scenarios`: what stated assumptions come to, side by side."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

from ..analysis.stated_scenarios import Projection, Scenario, projected
from ..charts import Chart
from ..charts.caller_axes import onto
from ..charts.frame_chart import draw_frame
from ..charts.frame_columns import Wishes
from ..reports import Report as Model
from ..support.errors import SourceError
from ..tables import Table, Timeline
from ..tables.io.regular_files import text_of
from ..text import Summary
from ..text import scenario_sentences as said
from ..text.languages import say
from ..text.text_tables import TextTable
from .read import read
from .result import Result
from .result_language import in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes

_MOST_BYTES = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Scenarios(Result):
    """Stated assumptions worked out; `result` holds every step, `table` the same as rows."""

    format: ClassVar[str] = "golden-almanac/scenarios/1"

    result: Projection
    table: Table

    def _about(self) -> Table:
        return self.table

    def _line(self) -> Timeline | None:
        return None

    def _asked(self) -> dict[str, Any]:
        return {"steps": len(self.result.paths[0]), "grain": self.result.grain}

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.scenarios_summary(self.result)

    def _heading(self) -> str:
        return f"{len(self.result.scenarios)} scenarios over {len(self.result.paths[0])} steps of a {self.result.grain}"

    def _caveats(self) -> list[str]:
        return [said.assumptions(one) for one in self.result.scenarios]

    def to_frame(self) -> pd.DataFrame:
        """A row for each step of each scenario: scenario, step, begin, payments, growth, costs, taxes, end."""
        return _frame(self.result)

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """The end of every step, a column for each scenario."""
        return said.scenarios_tables(self.result)

    def _figures(self) -> dict[str, Any]:
        return {
            "scenarios": [
                {
                    "name": one.name,
                    "assumptions": {
                        field.name: getattr(one, field.name)
                        for field in fields(one)
                        if field.name not in ("name", "lumps")
                    }
                    | {"lumps": {str(step): value for step, value in sorted(one.lumps.items())}},
                    "steps": [{name: getattr(step, name) for name in _COLUMNS} for step in path],
                }
                for one, path in zip(self.result.scenarios, self.result.paths, strict=True)
            ],
            "crossings": [
                {"ahead": one.ahead, "behind": one.behind, "step": one.step} for one in self.result.crossings
            ],
        }

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """The end of every step, a line for each scenario."""
        with onto(ax):
            frame = self.to_frame()
            step = say("Year") if self.result.grain == "year" else say("Month")
            amount = say("Amount")
            data = {step: [str(one) for one in frame["step"]], amount: frame["end"], say("Scenario"): frame["scenario"]}
            import pandas as pd

            wishes = Wishes(
                title=self.headline.rstrip("."),
                subtitle=say("Arithmetic on stated assumptions, and no forecast"),
                x=step,
                y=[amount],
                by=say("Scenario"),
                order="given",
            )
            return draw_frame(pd.DataFrame(data), "line", wishes)

    def _pages(self, title: str | None) -> Model:
        from ..reports.total_report import figures_report

        return figures_report(
            self.table, self.summary(), self.chart(), self.tables(), self.caveats(), title or say("Scenarios")
        )


_COLUMNS = ("step", "begin", "payments", "growth", "costs", "taxes", "end")


def _frame(found: Projection) -> pd.DataFrame:
    import pandas as pd

    return pd.DataFrame(
        [
            {"scenario": one.name, **{name: getattr(step, name) for name in _COLUMNS}}
            for one, path in zip(found.scenarios, found.paths, strict=True)
            for step in path
        ]
    )


def read_scenarios(file: str | os.PathLike[str]) -> tuple[Scenario, ...]:
    """Scenarios from a TOML file.

    Parameters
    ----------
    file
        One with a table `[[scenario]]` for each: its name and assumptions (see `Scenario`), lump sums as a table of
        steps, `lumps = {5 = 20000}`.

    Returns
    -------
    tuple of Scenario
        In the order of the file.

    Raises
    ------
    SourceError
        The file cannot be read, or names what is no assumption.
    """
    import tomllib

    path = Path(file)
    try:
        told = tomllib.loads(text_of(path, _MOST_BYTES))
    except tomllib.TOMLDecodeError as problem:
        raise SourceError(path.name, f"it is no TOML: {problem}", "Mend the line named.") from None
    listed = told.get("scenario")
    known = {field.name for field in fields(Scenario)}
    if set(told) - {"scenario"} or not isinstance(listed, list) or not all(isinstance(one, dict) for one in listed):
        raise SourceError(path.name, "it has no list of scenarios", "Write [[scenario]] before each.")
    made = []
    for place, one in enumerate(listed, start=1):
        strange = sorted(set(one) - known)
        if strange or not isinstance(one.get("name"), str):
            what = f"{strange[0]!r} is no assumption" if strange else "it has no name"
            raise SourceError(f"{path.name}, scenario {place}", what, "Known are " + ", ".join(sorted(known)) + ".")
        lumps = one.get("lumps", {})
        try:
            one = {**one, "lumps": {int(step): float(value) for step, value in dict(lumps).items()}}
        except (TypeError, ValueError):
            raise SourceError(
                f"{path.name}, scenario {place}", "its lump sums are no table of steps", "Write lumps = {5 = 20000}."
            ) from None
        made.append(Scenario(**one))
    return tuple(made)


@voiced
def scenarios(
    listed: Sequence[Scenario | Mapping[str, Any]] | str | os.PathLike[str],
    steps: int = 10,
    *,
    grain: str = "year",
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Scenarios:
    """What stated assumptions come to, step by step and side by side: arithmetic, and no forecast.

    Parameters
    ----------
    listed
        Scenarios (see `Scenario`), mappings of their fields, or a TOML file of them (see `read_scenarios`).
    steps, grain
        How many steps of a year or a month. Rates are percent a year; a month takes its twelfth root.
    locale, names
        The language of the result (see `speaking`); of the caller by default.

    Returns
    -------
    Scenarios
        Of every step what it begins with, payments, growth, costs, taxes and what it ends with, in the unit of the
        amounts; where one scenario overtakes another.

    Raises
    ------
    AlmanacError
        One of its subclasses: a number that is none, two of one name, a lump sum beyond the last step.
    """
    told = read_scenarios(listed) if isinstance(listed, str | os.PathLike) else listed
    made = tuple(one if isinstance(one, Scenario) else Scenario(**one) for one in told)
    found = projected(made, steps, grain)
    return Scenarios(result=found, table=read(_frame(found), name="scenarios"))
