"""`ga.model_outcome`: a model of an outcome, chosen on rows it has not seen, whose predictions add up from their
parts."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np

from ..analysis.models import Chosen, Model, choose, new_rows, rules
from ..charts import Chart
from ..charts import model_charts as charts
from ..charts.caller_axes import onto
from ..export.data_files import to_json
from ..export.files import write_whole
from ..reports import Report as Pages
from ..support.errors import RequestError, SourceError
from ..tables import Table
from ..tables.io.regular_files import text_of
from ..text import Summary
from ..text import model_sentences as said
from ..text.core_sentences import retold
from ..text.languages import say
from ..text.text_tables import TextTable
from ..text.text_tables.outcome_tables import model_tables
from .read import read
from .request import Request, several
from .result import Result
from .result_language import in_one_palette, in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class OutcomeModel(Result):
    """A model of an outcome. `chosen` tells how it was chosen and is None for one that was loaded."""

    format: ClassVar[str] = "golden-almanac/outcome-model/1"

    model: Model
    chosen: Chosen | None = None

    def _about(self) -> Table:
        return self._chosen().about.table

    def _asked(self) -> dict[str, Any]:
        return {
            "outcome": self.model.outcome,
            "event": self.model.event,
            "metric": self._chosen().metric,
            "factors": [feature.name for feature in self.model.features],
        }

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.model_summary(self.model, self.chosen)

    def _caveats(self) -> list[str]:
        left_out = () if self.chosen is None else self.chosen.left_out
        return [say("Left out: {names}.", names=f"{one.factor} ({retold(one.reason)})") for one in left_out]

    def _heading(self) -> str:
        return f"{self.model.kind} model of {self.model.outcome}"

    def _face(self) -> pd.DataFrame:
        import pandas as pd

        return pd.DataFrame() if self.chosen is None else self.to_frame()

    def to_frame(self) -> pd.DataFrame:
        """One row a model tried and one for the base rate: model, metric, value, error, chosen."""
        import pandas as pd

        one = self._chosen()
        rows = [
            {"model": name, "metric": one.metric, "value": value, "error": error, "chosen": name == self.model.kind}
            for name, value, error in one.scores
        ]
        rows.append({"model": "base rate", "metric": one.metric, "value": one.base, "error": None, "chosen": False})
        return pd.DataFrame(rows)

    def calibration(self) -> pd.DataFrame:
        """Ten bins of predictions on rows not seen: predicted, outcome, error, rows."""
        import pandas as pd

        return pd.DataFrame(list(self._chosen().calibration), columns=["predicted", "outcome", "error", "rows"])

    def rules(self) -> pd.DataFrame:
        """The leaves of a tree as SQL conditions: where, rows, value. Raises LookupError for other models."""
        import pandas as pd

        return pd.DataFrame(rules(self.model), columns=["where", "rows", "value"])

    def predict(self, source: Any) -> pd.DataFrame:
        """Predictions for the rows of a table: prediction, start, and a column for what each factor adds; they sum to
        the prediction. The index is the row's number. Raises ColumnError where a column is missing or of another
        kind."""
        import pandas as pd

        table: Table = read(source)
        factors = new_rows(self.model, table)
        start, parts = self.model.parts(factors)
        data_frame = pd.DataFrame(parts, columns=[feature.name for feature in self.model.features])
        data_frame.insert(0, "prediction", self.model.predict(factors))
        data_frame.insert(1, "start", np.full(len(data_frame), start))
        data_frame.index = pd.Index(table.row_numbers(), name="row")
        return data_frame

    @in_voice
    def why(self, source: Any, row: int) -> str:
        """One row's prediction as a sentence: what raised it and what lowered it. Raises RequestError for no such
        row."""
        table: Table = read(source)
        if row not in table.row_numbers():
            raise RequestError("The row", row, f"one of the table's ({table.rows:,} rows, from {table.first_row})")
        one = self.predict(table.at([row])).iloc[0]
        return said.why_predicted(self.model, {str(name): float(value) for name, value in one.items()})

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """How each kind of model did on rows it had not seen, and the rules of a tree, as tables of text.

        Raises LookupError for a model that was loaded."""
        return model_tables(self.model, self._chosen())

    def _figures(self) -> dict[str, Any]:
        """How it was chosen; `save` keeps the model itself."""
        one = self._chosen()
        return {
            "model": self.model.kind,
            "scores": [{"model": name, "value": value, "error": error} for name, value, error in one.scores],
            "base": one.base,
            "calibration": [
                dict(zip(("predicted", "outcome", "error", "rows"), point, strict=True)) for point in one.calibration
            ],
            "rules": rules(self.model) if self.model.kind == "tree" else None,
        }

    def save(self, path: str | os.PathLike[str]) -> Path:
        """Keep the model as JSON. Raises OutputError."""
        target = Path(path)
        write_whole(target, to_json(self.model.to_dict()))
        return target

    @in_voice
    def chart(self, *, kind: str = "calibration", ax: Axes | None = None) -> Chart:
        """The calibration, or for a tree its branches (`kind="tree"`). Raises LookupError where there is none."""
        with onto(ax):
            if kind == "tree":
                return charts.draw_tree(self.model, self._chosen(), self.headline.rstrip("."))
            return charts.draw_calibration(self.model, self._chosen(), said.calibrated(self._chosen()))

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        """The calibration and, of a tree, its branches; none for a model that was loaded."""
        if self.chosen is None:
            return ()
        return (self.chart(), *([self.chart(kind="tree")] if self.model.kind == "tree" else []))

    def _pages(self, title: str | None) -> Pages:
        from ..reports.outcome_reports import model_report

        return model_report(self.model, self._chosen(), self.summary(), title)

    def _chosen(self) -> Chosen:
        if self.chosen is None:
            raise LookupError("a model that was loaded keeps no record of how it was chosen")
        return self.chosen


@dataclass(frozen=True, slots=True, kw_only=True)
class ModelRequest(Request):
    """A model of an outcome; see `model_outcome` for the fields."""

    call: ClassVar[str] = "model_outcome"
    command: ClassVar[str] = "drivers"
    options: ClassVar[Mapping[str, str]] = {"factors": "--factor", "kind": "--model", "where": "-w"}

    outcome: str
    factors: tuple[str, ...] | None = None
    kind: str = "best"
    metric: str | None = None
    event: str | None = None

    def _words(self) -> list[str]:
        # Without a kind the command would look for drivers.
        return [*Request._words(self), *(["--model", self.kind] if self.kind == "best" else [])]

    def _answered(self, table: Table) -> OutcomeModel:
        chosen = choose(table, self.outcome, self.factors, event=self.event, kind=self.kind, by=self.metric)
        return OutcomeModel(model=chosen.model, chosen=chosen)


@voiced
def model_outcome(
    source: Any,
    outcome: str,
    factors: Sequence[str] | str | None = None,
    *,
    kind: str = "best",
    metric: str | None = None,
    event: str | None = None,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> OutcomeModel:
    """Fit a linear (or logistic) model, a tree and boosted trees; keep the one that foretells unseen rows best.

    Parameters
    ----------
    source, outcome, factors, event, where
        As for `ga.find_drivers`; factors that restate the outcome are left out.
    kind
        `linear`, `tree` or `boosted` for just that one; `best` by default: the simplest within half a standard error of
        the best in five-fold cross-validation.
    metric
        `auc`, `accuracy`, `brier` or `log_loss` (the default) for yes/no outcomes, `mae` or `rmse` (the default) for
        numbers.
    where
        An SQL condition; only the rows that meet it take part.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    OutcomeModel
        It predicts new rows, in the outcome's unit or as a probability; rows with a missing outcome take no part, a
        missing number counts as the usual one. Trees are those of Breiman et al. (1984), boosting that of Friedman
        (2001).

    Raises
    ------
    AlmanacError
        One of its subclasses, as for `ga.find_drivers`.
    """
    asked = ModelRequest(
        source=source, outcome=outcome, factors=several(factors), kind=kind, metric=metric, event=event, where=where
    )
    model: OutcomeModel = asked.run(progress)
    return model


#: Bytes of a model at most.
_MOST_BYTES = 100_000_000


def load_model(path: str | os.PathLike[str]) -> OutcomeModel:
    """A model that `OutcomeModel.save` kept.

    Parameters
    ----------
    path
        The file.

    Returns
    -------
    OutcomeModel
        It predicts new rows; a missing value counts as the column's usual one.

    Raises
    ------
    SourceError
        There is no such file, or it holds no model.
    """
    name = Path(path).name
    try:
        kept = json.loads(text_of(Path(path), _MOST_BYTES))
    except (ValueError, RecursionError) as problem:
        raise SourceError(
            name, "it is no model that was saved here", "Give a file that OutcomeModel.save wrote."
        ) from problem
    try:
        return OutcomeModel(model=Model.from_dict(kept, name))
    except (KeyError, TypeError, ValueError, AttributeError, IndexError, OverflowError) as problem:
        raise SourceError(name, "it is no whole model", "Keep the model again, with --keep-model.") from problem
