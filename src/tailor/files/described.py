"""Described: the settings of a job as the format's page lists them, from their declarations.

python -m tailor.files.described docs/format.md brings the page up to date.
"""

from __future__ import annotations

import json
import re
import sys
from pathlib import Path

from tailor.core.draft import styles
from tailor.core.keys import KEYS
from tailor.core.maker import usual
from tailor.core.measure import Kind, Measure, Value
from tailor.files.job_file import JobEntry

HEAD = "| key | meaning | if not pinned | may be |\n| --- | --- | --- | --- |\n"
TABLE = re.compile(re.escape(HEAD) + r"(?:\| `.*\n)+")
SCHEMA = re.compile(r"```json schema\n.*?\n```\n", re.DOTALL)


def settings() -> str:
    """The table of all settings, in Markdown."""
    return HEAD + "".join(map(_line, KEYS.values()))


def _line(of: Measure) -> str:
    usually = "worked out" if of.usual is None else f"`{_plain(of.usual)}`"
    for name in styles.names():
        if of.name in (style := styles.style(name)).usual:
            usually += f"; `{style.usual[of.name]}` for {style.said.lower()}"
    if of.kind is Kind.WORD:
        may = "the name of a piece, or `none`"
    elif of.kind is Kind.SIZES:
        may = f"{of.low:g} to {of.high:g} mm each"
    elif of.kind is Kind.CHOICE:
        may = " or ".join(f"`{word}`" for word in usual().words(of))
    else:
        may = f"{of.low:g} to {of.high:g} {of.unit.replace('count', '')}".strip()
    return f"| `{of.name}` | {of.meaning} | {usually} | {may} |\n"


def _plain(value: Value) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)


def schema() -> str:
    """The schema of a job file, in Markdown."""
    return f"```json schema\n{json.dumps(JobEntry.model_json_schema(), indent=1, ensure_ascii=False)}\n```\n"


def up_to_date(page: str) -> str:
    """The page with the table and the schema as they are declared now."""
    return SCHEMA.sub(lambda _: schema(), TABLE.sub(lambda _: settings(), page))


if __name__ == "__main__":
    place = Path(sys.argv[1])
    place.write_text(up_to_date(place.read_text(encoding="utf-8")), encoding="utf-8")
