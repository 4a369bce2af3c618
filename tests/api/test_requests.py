"""A request is the same for Python, command line, brief and question."""

from __future__ import annotations

import dataclasses
import inspect
import json
import shlex
import subprocess
import sys
from importlib import import_module
from pathlib import Path

import pytest
from typer.main import get_command

import golden_almanac as ga
from golden_almanac.api.compare import CompareRequest
from golden_almanac.api.find_drivers import DriversRequest
from golden_almanac.api.request import Request
from golden_almanac.api.scan import ScanRequest
from golden_almanac.cli.app import assembled

CALLS = {
    "scan": "ScanRequest",
    "explain_change": "ChangeRequest",
    "explain_changes": "ChangesRequest",
    "find_drivers": "DriversRequest",
    "compare": "CompareRequest",
    "relate": "RelateRequest",
    "regress": "RegressRequest",
    "model_outcome": "ModelRequest",
}


@pytest.mark.parametrize(("call", "name"), CALLS.items())
def test_a_call_takes_what_its_request_holds(call: str, name: str) -> None:
    kind = getattr(import_module(f"golden_almanac.api.{call}"), name)
    assert issubclass(kind, Request)
    taken = set(inspect.signature(getattr(ga, call)).parameters) - {"progress", "locale", "names"}
    assert taken == {field.name for field in dataclasses.fields(kind)}
    assert kind.call == call


def test_a_request_is_frozen_and_asked_of_another_source(shop: Path) -> None:
    asked = CompareRequest(source=shop, outcome="price", by="item")
    with pytest.raises(dataclasses.FrozenInstanceError):
        asked.by = "units"  # type: ignore[misc]
    other = asked.of("elsewhere.csv")
    assert (other.source, other.outcome, other.by) == ("elsewhere.csv", "price", "item")
    assert asked.given() == {"outcome": "price", "by": "item"}


def test_one_name_or_several_are_the_same_request() -> None:
    one = ScanRequest.from_mapping("t.csv", {"measures": "sum(fare)", "by": ["quay", "boat"], "grain": "month"})
    assert one == ScanRequest(source="t.csv", measures=("sum(fare)",), by=("quay", "boat"), grain="month")
    with pytest.raises(ga.RequestError, match="measures"):
        ScanRequest.from_mapping("t.csv", {"mesures": "sum(fare)"})


def test_a_request_shows_itself_as_call_and_command(sailings: Path, tmp_path: Path) -> None:
    few = tmp_path / "sailings.csv"
    few.write_text("".join(sailings.read_text("utf-8").splitlines(keepends=True)[:4000]), "utf-8")
    where = "region = 'Outer Isles' AND revenue > 0"
    asked = DriversRequest(source=few, outcome="delay_min", factors=("vessel", "channel"), where=where)
    assert asked.as_call() == (
        f"ga.find_drivers(source, where={where!r}, outcome='delay_min', factors=('vessel', 'channel'))"
    )
    by_call = eval(asked.as_call(), {"ga": ga, "source": few})
    words = shlex.split(asked.as_command(str(few)))
    assert words[0] == "golden-almanac"
    done = subprocess.run(
        [sys.executable, "-m", "golden_almanac", *words[1:], "--json"], capture_output=True, text=True, check=True
    )
    assert json.loads(done.stdout) == json.loads(json.dumps(asked.run().to_dict()))
    assert by_call.to_dict() == asked.run().to_dict()


FULL = {
    "scan": {"measures": "fare", "by": ["quay"], "time": "d", "grain": "month", "kinds": ["trend"], "focus": "quay",
             "ignore": ["x"], "better": {"avg(late)": "down"}, "floors": {"trend": 5}, "least_rows": 9,
             "notes": "n.csv"},
    "explain_change": {"measure": "fare", "period": "2025", "baseline": "2024", "by": "quay", "time": "d",
                       "grain": "year", "identity": "a = b + c", "notes": "n.csv"},
    "explain_changes": {"baseline": ["2024", "previous"], "by": "quay"},
    "find_drivers": {"outcome": "late", "factors": ["quay"], "event": "yes", "toward": "higher"},
    "compare": {"outcome": "late", "by": "quay", "paired": "id", "event": "yes", "test": "t"},
    "relate": {"x": "a", "y": "b"},
    "regress": {"outcome": "late", "factors": ["a", "b"], "intercept": False},
    "model_outcome": {"outcome": "late", "metric": "auc"},
}  # fmt: skip


@pytest.mark.parametrize("call", CALLS)
def test_every_field_has_its_option_on_the_command_line(call: str) -> None:
    """The command is parsed by the command line's own parser, and means what was asked."""
    kind = getattr(import_module(f"golden_almanac.api.{call}"), CALLS[call])
    asked = kind.from_mapping("t.csv", {**FULL[call], "where": "x = 'it''s'"})
    _, name, *words = shlex.split(asked.as_command("t.csv"))
    read = get_command(assembled()).commands[name].make_context(name, words).params  # type: ignore[attr-defined]
    assert read["source"] == "t.csv"
    assert read["where"] == "x = 'it''s'"
    given = [value for value in read.values() if value not in (None, (), [], False)]
    for value in (one for said in FULL[call].values() for one in (said if isinstance(said, list) else [said])):
        texts = [f"{key}={one}" for key, one in value.items()] if isinstance(value, dict) else [value]
        for text in texts:
            wanted = True if text is False else text
            assert any(wanted == one or (isinstance(one, list | tuple) and wanted in one) for one in given), (
                text,
                read,
            )
