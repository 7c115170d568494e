"""The command `tailor learn`: from cases of what came out to what is believed."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any


def add(commands: Any) -> None:
    """Add the command to the others."""
    learn = commands.add_parser("learn", help="what cases of finished work say of a maker's own constants")
    learn.add_argument("cases", type=Path, metavar="CASES.json", help="what came out")
    learn.add_argument("-o", dest="out", required=True, type=Path, metavar="BELIEFS.json")
    learn.set_defaults(run=_learn)


def _learn(arguments: argparse.Namespace) -> int:
    from tailor.core.log.constants import CONSTANTS
    from tailor.core.log.learning import learned, prior
    from tailor.files import atomic, cases

    readings, said = cases.read(arguments.cases)
    beliefs = learned(readings, said) or tuple(prior(each) for each in CONSTANTS.values())
    atomic.write(arguments.out, cases.to_text(beliefs).encode())
    for belief in beliefs:
        named = ", ".join(filter(None, (belief.constant, belief.leather, belief.method)))
        offered = " – worth using" if belief.offered else ""
        since = f"; otherwise since {belief.since}" if belief.since is not None else ""
        cases_ = f"{belief.cases} case{'' if belief.cases == 1 else 's'}"
        print(f"{named}: {belief.mean:.3g} ± {belief.sd:.2g}, from {cases_}, where the table says "
              f"{belief.prior_mean:.3g} ± {belief.prior_sd:.2g}{offered}{since}")  # fmt: skip
    return 0
