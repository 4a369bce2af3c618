"""`golden-almanac doctor`: what is installed, and what would not work."""

from __future__ import annotations

from . import shared_options, streams

#: The packages that people ask for first.
_SHOWN = ("numpy", "pandas", "pyarrow", "duckdb", "matplotlib")

HELP = """Say what is installed, which extras, fonts, memory and folders there are, and what would not work.

Status 1 where something that is needed is missing.

\b
Examples:
  golden-almanac doctor
"""


def doctor(as_json: shared_options.AsJson = False) -> int:
    from golden_almanac.api.installation import installation
    from golden_almanac.export.data_files import json_bytes

    parts = installation()
    broken = [part for part in parts if part.works is False]
    if as_json:
        listed = [
            {"name": part.name, "works": part.works, "state": part.state, "remedy": part.remedy or None}
            for part in parts
        ]
        streams.say_bytes(json_bytes({"format": "golden-almanac/doctor/1", "parts": listed}))
        return 1 if broken else 0
    good = [part for part in parts if part.package and part.works]
    wide = max(len(name) for name in ("packages", *(part.name for part in parts if part not in good)))
    for part in parts:
        if part is next(iter(good), None):
            known = ", ".join(f"{one.name} {one.state}" for one in good if one.name in _SHOWN)
            streams.say(f"  {'packages':<{wide}}  {len(good)} as they must be ({known} …)")
        if part in good:
            continue
        mark = {True: " ", False: "!", None: "·"}[part.works]
        remedy = f"  →  {part.remedy}" if part.remedy else ""
        streams.say(f"{mark} {part.name:<{wide}}  {part.state}{remedy}")
    streams.say()
    if broken:
        streams.say(f"{len(broken)} will not work as it is: {', '.join(part.name for part in broken)}.")
    else:
        streams.say("All that is needed is there.")
    return 1 if broken else 0
