"""What a brief may say, as models: the one place that knows its keys, their kinds, their bounds and what they mean.

The JSON Schema that editors check a brief by is made from them.
"""

from __future__ import annotations

import json
import re
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from ..support.errors import PeriodError
from ..tables.calendar import STANDARD, parse_period

SCHEMA_NAME = "golden-almanac-brief.schema.json"
_PERIOD = "a period such as 2025, 2025-Q3, 2025-08 or 2025-W07"
#: Periods in words, and what they are called by the calls.
IN_WORDS = {
    "last complete period": "last",
    "last complete day": "last",
    "last complete week": "last",
    "last complete month": "last",
    "last complete quarter": "last",
    "last complete year": "last",
    "last": "last",
    "year before": "year-ago",
    "same period last year": "year-ago",
    "period before": "previous",
}


def _period(text: str) -> str:
    if text in IN_WORDS or re.fullmatch(r"last \d{1,5} days?", text):
        return text
    try:
        parse_period(text, STANDARD)
    except PeriodError:
        raise ValueError(_PERIOD) from None
    return text


def _baseline(text: str) -> str:
    # What else it may be, a scenario of the table, only the table knows.
    if text in ("previous", "year-ago", "forecast") or text in IN_WORDS:
        return text
    return _period(text)


def _mail_address(text: str) -> str:
    if len(text) > 254 or not re.fullmatch(r"[!#-'*+\-/-9=?A-Z^-~.]{1,64}@[A-Za-z0-9.\-]+", text):
        raise ValueError("one such as office@example.org")
    return text


Span = Annotated[str, AfterValidator(_period)]
Against = Annotated[str, AfterValidator(_baseline)]
Address = Annotated[str, AfterValidator(_mail_address)]
Rows = Annotated[int, Field(ge=0, lt=10**9)]
Several = Annotated[int, Field(ge=1, lt=10**9)]
Way = Literal["up", "down"]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)


class BriefMeasure(_Part):
    """A measure: an SQL aggregate, and what it is called, counted in, aimed at."""

    sql: str = Field(description="An SQL aggregate over the columns, such as sum(revenue) / sum(passengers).")
    name: str | None = Field(None, description="What it is called in sentences and charts.")
    unit: str | None = Field(None, description="Its unit or currency: min, EUR; % makes a ratio a share.")
    decimals: Annotated[int, Field(ge=0, le=6)] | None = Field(
        None, description="With how many decimals its figures are written, below a million."
    )
    better: Way | None = Field(None, description="Which way is better.")
    target: float | None = Field(None, description="What it should come to in the period.")


class BriefDimension(_Part):
    """A column to break measures down by."""

    column: str = Field(description="The column.")
    name: str | None = Field(None, description="What it is called.")
    labels: dict[str, str] = Field({}, description="What its labels are called.")
    hierarchy: list[str] = Field([], description="The columns it lies within, the nearest first: a port in a region.")
    order: list[str] = Field([], description="Its labels in their own order: low, middle, high.")
    synonyms: list[str] = Field([], description="What else it is called, in questions.")


class BriefColours(_Part):
    """Colours by what they are for, written #RRGGBB."""

    paper: str | None = Field(None, description="Behind everything.")
    ink: str | None = Field(None, description="Letters.")
    rule: str | None = Field(None, description="Rules between rows.")
    accent: str | None = Field(None, description="What a sentence is about.")
    context: str | None = Field(None, description="What stands beside it.")
    quiet: str | None = Field(None, description="What is said quietly.")
    good: str | None = Field(None, description="For the better.")
    bad: str | None = Field(None, description="For the worse.")


class BriefLook(BriefColours):
    """Colours, fonts, logo and templates of the organisation; what is not said is the house's."""

    colours: dict[str, str] = Field({}, description="A colour by label, kept in every chart.")
    dark: BriefColours | None = Field(None, description="The same on dark paper; lightened from these by default.")
    categories: list[str] | None = Field(None, description="Up to seven colours of categories, after the accent.")
    dark_categories: list[str] | None = Field(None, description="The same on dark paper.")
    sans: str | None = Field(None, description="A font file (TTF, OTF) for text and figures.")
    sans_bold: str | None = Field(None, description="Its bold.")
    serif: str | None = Field(None, description="A font file for headlines.")
    serif_bold: str | None = Field(None, description="Its bold.")
    logo: str | None = Field(None, description="A PNG or JPEG above the report.")
    slides: str | None = Field(None, description="A .pptx or .potx whose layouts, fonts and colours slides take.")
    document: str | None = Field(None, description="A .docx or .dotx whose styles and pages documents take.")


class BriefNote(_Part):
    """Something people know: a remark for some days."""

    start: str = Field(alias="from", description="The first day, 2025-02-10.")
    to: str | None = Field(None, description="The last day; the first by default.")
    note: str = Field(description="The remark.")
    where: dict[str, str] = Field({}, description="Columns and the label that it is about; all by default.")


class BriefAlert(_Part):
    """A condition on which the run ends with status 1: one of `when`, `unusual`, `kind`."""

    name: str = Field(description="What is told when it holds.")
    when: str | None = Field(None, description="A condition over measures of the period: sum(revenue) < 1000000.")
    unusual: str | None = Field(None, description="A measure whose change is outside its usual range.")
    kind: str | None = Field(None, description="A kind of finding (golden-almanac scan --kinds).")
    measure: str | None = Field(None, description="With kind: only findings on this measure.")
    where: dict[str, str] = Field({}, description="With kind: only findings on this slice.")
    mail: bool = Field(False, description="Send it to the people of [mail].")

    @model_validator(mode="after")
    def _one(self) -> BriefAlert:
        if sum(one is not None for one in (self.when, self.unusual, self.kind)) != 1:
            raise ValueError("with one of when, unusual and kind")
        return self


class BriefMail(_Part):
    """Who gets it by mail, over SMTP."""

    host: str
    port: Annotated[int, Field(ge=1, le=65_535)] = 25
    sender: Address = Field(alias="from")
    to: Annotated[list[Address], Field(min_length=1)]


class BriefCalendar(_Part):
    """By which calendar it is told."""

    fiscal_start: Annotated[int, Field(ge=1, le=12)] = 1
    week_start: str = "monday"
    zone: str | None = None
    holidays: str | None = None
    as_of: str | None = None


class BriefSection(_Part):
    """A section changed (`id`, `kind`) or added (the other subjects), in order."""

    id: str | None = Field(None, description="A section that is there, by its id.")
    kind: str | None = Field(None, description="All sections of a kind.")
    change: str | None = Field(None, description="Why this measure changed.")
    drivers: str | None = Field(None, description="What goes with this column.")
    forecast: str | None = Field(None, description="What to expect of this measure.")
    compare: str | None = Field(None, description="This column between the labels of by.")
    relate: str | None = Field(None, description="How this column goes with the one named by y.")
    total: str | None = Field(None, description="This measure by the labels of by.")
    regress: str | None = Field(None, description="A linear regression of this column on factors.")
    growth: str | None = Field(None, description="How fast the labels of by grew in this measure.")
    cohorts: str | None = Field(None, description="Who stays, of the members that this column names, by active.")
    figures: str | None = Field(None, description="Key figures of this span, against what is usual.")
    ledger: str | None = Field(None, description="A review of the accounts that this column names.")
    peers: str | None = Field(None, description="The own figures, of this file, beside the rows, which are peers.")
    table: str | None = Field(None, description="A table of measures by this column, or by two with a comma.")
    draw: str | None = Field(None, description="A chart of this kind, of sql.")
    ask: str | None = Field(None, description="A question in English, answered of the rows.")
    show: str | None = Field(None, description="A table with this heading, of sql.")
    note: str | None = Field(None, description="Words of one's own under this heading.")
    drop: bool = False
    first: bool = False
    new_page: bool = False
    title: str | None = None
    text: str | None = Field(None, description="May hold live values: {{ revenue.value | amount }}.")
    chart: str | None = Field(None, description="Another kind of chart.")
    size: Annotated[float, Field(ge=0.3, le=1, strict=False)] | None = None
    sql: str | None = Field(None, description="SELECT … FROM source …")
    period: Span | None = None
    baseline: Against | None = None
    periods: Annotated[int, Field(ge=1, le=120)] | None = None
    target: float | None = None
    by: str | None = None
    active: str | None = Field(None, description="With cohorts: the dates of activity.")
    joined: str | None = Field(None, description="With cohorts: the dates of joining.")
    measure: str | None = Field(None, description="With cohorts: a sum, told a member; with table, what is told.")
    measures: list[str] | None = Field(None, description="With figures or table: what is told.")
    columns: list[str] | None = Field(None, description="With table: a column, a grain, or spans.")
    amount: str | None = Field(None, description="With ledger: the amounts.")
    base: list[str] | None = Field(None, description="With ledger: the accounts that amounts are weighed against.")
    company: str | None = Field(None, description="With peers: the column of their names.")
    like: str | None = Field(None, description="With peers: the figure that they are about equal in.")
    category: str | None = Field(None, description="With peers: the column whose label they share.")
    factors: list[str] | None = None
    x: str | None = None
    y: list[str] | None = None
    order: str | None = None
    most: Several | None = None
    unit: str | None = None
    highlight: list[str] | None = None
    references: dict[str, Any] | None = None
    events: dict[str, Any] | None = None
    colours: dict[str, str] | None = None

    @model_validator(mode="after")
    def _about(self) -> BriefSection:
        told = [name for name in SUBJECTS if getattr(self, name) is not None]
        if len(told) != 1:
            raise ValueError(f"one of {', '.join(SUBJECTS)}")
        if told[0] in ("draw", "show") and self.sql is None:
            raise ValueError('with sql = "SELECT … FROM source …"')
        return self


#: What a section may be about, one of them each.
SUBJECTS = (
    "id", "kind", "ask", "change", "drivers", "forecast", "compare", "relate", "total", "regress", "growth", "cohorts",
    "figures", "ledger", "peers", "table", "draw", "show", "note",
)  # fmt: skip


class BriefModel(_Part):
    """A brief of Golden Almanac: what to read, measure, compare and publish, for whom."""

    title: str | None = Field(None, description="The report's title.")
    subtitle: str | None = None
    owner: str | None = Field(None, description="Who answers for the report.")
    audience: Literal["board", "manager", "analyst"] | None = Field(
        None, description="board: a glance; manager: a minute; analyst: a page, with how sure each story is."
    )
    content: Literal["period", "findings"] = Field(
        "period", description="period: the last period and why, the longer run, what to expect; findings: a scan alone."
    )
    source: str | None = Field(None, description="What to read, relative to the brief, or a database URL.")
    sheet: str | None = None
    table: str | None = None
    query: str | None = Field(None, description="One SELECT over a database.")
    secret: str | None = Field(
        None, description="The environment variable, or file outside the brief's folder (file:…), of a password."
    )
    joins: list[str] | None = Field(None, description='Tables whose columns are added: "ports.csv on port = name".')
    answers: dict[str, str] | None = Field(None, description="Answers to the questions that check puts.")
    apply: str | None = Field(None, description="A repair log (check --repairs): just its repairs are made.")
    rows: str | None = Field(None, description='What the rows are, many of them: "sailings".')
    time: str | None = None
    grain: Literal["day", "week", "month", "quarter", "year"] | None = None
    measures: list[str] | None = None
    by: list[str] | None = None
    where: str | None = Field(None, description="Only the rows that meet this SQL condition.")
    focus: list[str] | None = None
    ignore: list[str] | None = None
    private: list[str] | None = Field(None, description="Columns that do not exist for anything downstream.")
    minimum_group: Rows | None = Field(None, description="Labels of fewer rows are put together.")
    row_samples: bool = Field(True, description="false: no row is told by itself.")
    keep_cells: bool = Field(
        True, description="false: of a server's table no cells of closed months are kept for the next edition."
    )
    natures: dict[str, str] | None = None
    rates: str | None = None
    better: dict[str, Way] | None = None
    period: Span | None = Field(None, description='A period, or in words: "last complete month", "last 30 days".')
    baseline: Against | None = Field(None, description="previous, year-ago, forecast, or a period.")
    length: Literal["short", "standard", "long"] | None = None
    text: str | None = Field(None, description="A sentence of one's own before the summary; may hold live values.")
    locale: str | None = None
    names: dict[str, str] | None = None
    formats: list[str] | None = None
    out: str | None = Field(
        None, description="The folder of the editions, within the brief's own; editions by default."
    )
    top: Several | None = Field(None, description="How many sections to keep.")
    switch: str | list[str] | None = Field(
        None, description="A column, or two, whose labels the reader of the page picks from."
    )
    pages: str | None = None
    slices: str | None = Field(None, description="A report of its own for each label of this column.")
    notes: str | None = Field(None, description="A CSV of known circumstances.")
    look: BriefLook | None = Field(None, description="The organisation's own look; the house's where nothing is said.")
    measure: list[BriefMeasure] = []
    dimension: list[BriefDimension] = []
    note: list[BriefNote] = []
    alert: list[BriefAlert] = []
    section: list[BriefSection] = []
    mail: BriefMail | None = None
    calendar: BriefCalendar | None = None


def brief_schema() -> str:
    """The JSON Schema of a brief, as text."""
    made = {"$schema": "https://json-schema.org/draft/2020-12/schema", **BriefModel.model_json_schema()}
    return json.dumps(made, indent=2, ensure_ascii=False) + "\n"
