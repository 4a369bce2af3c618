"""What the terminal shows of outcomes: drivers, comparisons, regressions, relations, models, questions."""

from __future__ import annotations

from typing import Any

from . import screen


def drivers(found: Any, top: int) -> None:
    """What goes with an outcome: summary, effects, segments, what has no clear effect."""
    console = screen.terminal()
    screen.opening(console, found.summary())
    one = found.found
    measure = one.outcome.measure
    rows = []
    for driver in one.drivers[:top]:
        for place, effect in enumerate(driver.effects[:3]):
            name = driver.factor.spoken if place == 0 else ""
            level = "(no value)" if effect.level is None else effect.level
            level = f"per {effect.per:.4g}" if driver.factor.number else level
            rows.append(
                [
                    name,
                    level,
                    _difference(effect.effect, measure),
                    f"{_difference(effect.low, measure)} to {_difference(effect.high, measure)}",
                    _difference(effect.unadjusted, measure),
                    f"{100 * driver.importance:.1f}%" if place == 0 else "",
                ]
            )
    if rows:
        heads = ["factor", "level", "effect", "95% range", "by itself", "importance"]
        screen.grid(console, "Effects, all else equal", heads, rows, left=2)
    if one.segments:
        shown = [
            [
                text,
                f"{part.n:,}",
                screen.percent(part.share),
                screen.figure(part.value, one.outcome),
                screen.figure(part.estimate, one.outcome),
            ]
            for text, part in zip(found.segment_names(), one.segments, strict=True)
        ]
        screen.grid(console, "Segments", ["where", "rows", "share", "value", "held-out"], shown)
    if one.unclear:
        screen.grid(
            console,
            "No clear effect",
            ["factor", "why"],
            [[part.factor.spoken, part.reason] for part in one.unclear],
            left=2,
        )
    if one.left_out:
        screen.grid(
            console, "Left out", ["factor", "why"], [[part.factor, part.reason] for part in one.left_out], left=2
        )
    screen.told(console, found.caveats())


def comparison(found: Any, top: int) -> None:
    """A comparison: what it means, groups, pairs, assumptions."""
    console = screen.terminal()
    screen.opening(console, found.summary())
    one = found.result
    groups = [*one.groups[:top], one.overall]
    if one.kind == "labels":
        crossed = found.crosstab()
        heads = [one.by, *(str(name) for name in crossed.columns)]
        screen.grid(console, "Rows", heads, [[str(name), *(f"{n:,}" for n in row)] for name, row in crossed.iterrows()])
    else:
        rows = [
            [
                part.label,
                f"{part.n:,}",
                *(_plain_figure(getattr(part, name)) for name in _GROUP_FIGURES),
                f"{part.missing:,}",
            ]
            for part in groups
        ]
        screen.grid(
            console, "Groups", [one.by, "rows", "mean", "median", "sd", "lower q.", "upper q.", "missing"], rows
        )
    pairs = sorted(one.test.pairs, key=lambda pair: (pair.p, -abs(pair.difference)))
    if pairs:
        told_pairs = [
            [
                f"{pair.a} – {pair.b}",
                _plain_figure(pair.difference),
                f"{_plain_figure(pair.low)} to {_plain_figure(pair.high)}",
                _p(pair.p),
            ]
            for pair in pairs[:top]
        ]
        more = "" if len(pairs) <= top else f" (the surest {top} of {len(pairs)})"
        screen.grid(console, f"Pairs{more}", ["pair", "difference", "range", "p, corrected"], told_pairs)
    screen.told(console, [*one.assumptions, *found.caveats()])


def _p(value: float) -> str:
    return "< 0.0001" if value < 0.0001 else f"{value:.4f}"


_GROUP_FIGURES = ("mean", "median", "sd", "q1", "q3")


def _plain_figure(value: Any) -> str:
    return "–" if value is None else f"{value:,.4g}"


def regression(found: Any) -> None:
    """A regression: summary, equation, the table of terms, the fit."""
    from rich.text import Text

    console = screen.terminal()
    screen.opening(console, found.summary())
    console.print()
    console.print(Text(found.equation))
    one = found.result
    rows = [
        [
            c.term,
            f"{c.estimate:.6g}",
            f"{c.error:.4g}",
            f"{c.error_hc3:.4g}",
            f"{c.t:.2f}",
            _p(c.p),
            f"{c.low:.4g} to {c.high:.4g}",
        ]
        for c in one.coefficients
    ]
    screen.grid(console, "Terms", ["term", "estimate", "error", "robust", "t", "p", "95% range"], rows)
    f = "" if one.f is None else f", F {one.f:.4g} on {one.df[0]:g} and {one.df[1]:g}, p {_p(one.p)}"
    screen.told(
        console,
        [
            f"{one.n:,} rows, R² {one.r2:.4f}, adjusted {one.adjusted_r2:.4f}{f}, residual sd {one.residual_sd:.4g}.",
            *one.bases,
        ],
    )


def relation(found: Any) -> None:
    """A relation: summary, then the averages along the first column."""
    console = screen.terminal()
    screen.opening(console, found.summary())
    one = found.result
    rows = [[f"{x:,.4g}", f"{y:,.4g}", f"{n:,}"] for x, y, _, n in one.shape.curve]
    screen.grid(console, "Averages", [one.x.name, one.y.name, "rows"], rows, left=0)


def model(found: Any) -> None:
    """A model: summary, how each kind did, the rules of a tree."""
    console = screen.terminal()
    screen.opening(console, found.summary())
    one = found.chosen
    rows = [[name + (" (kept)" if name == found.model.kind else ""), f"{value:.4g}"] for name, value, _ in one.scores]
    rows.append(["base rate" if found.model.yes_no else "average", f"{one.base:.4g}"])
    screen.grid(console, "On rows not seen", ["model", one.metric], rows)
    if found.model.kind == "tree":
        from rich.padding import Padding
        from rich.text import Text

        console.print(Text("\nRules", style="bold"))
        for _, row in found.rules().iterrows():
            console.print(Padding(Text(f"{row['value']:.4g}, {row['rows']:,} rows: {row['where']}"), (0, 0, 0, 2)))


def questions(found: list[Any], as_json: bool) -> None:
    """Questions worth asking, each with the command that answers it."""
    from rich.padding import Padding
    from rich.text import Text

    if as_json:
        asked = [{"question": one.text, "call": one.call, "command": one.command} for one in found]
        screen.json_out({"format": "golden-almanac/questions/1", "questions": asked})
        return
    console = screen.terminal()
    for one in found:
        console.print(Text(one.text, style="bold"))
        console.print(Padding(Text(one.command, style="#A86A00"), (0, 0, 0, 4)))


def _difference(value: Any, measure: Any) -> str:
    from golden_almanac import format_difference

    return "–" if value is None or value != value else format_difference(float(value), measure)
