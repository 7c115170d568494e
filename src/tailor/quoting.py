"""The commands `tailor needs` and `tailor quote`: what jobs or orders need, and what they cost."""

from __future__ import annotations

import argparse
import csv
import io
import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

from tailor.core.errors import InputError

if TYPE_CHECKING:
    from tailor.core.shop.made import Made
    from tailor.core.shop.shop import Shop


def add(commands: Any) -> None:
    """Add the commands to the others."""
    needs = commands.add_parser("needs", help="hardware, thread, glue and sheets that jobs need, against the stock")
    _things(needs)
    needs.add_argument("--orders", action="store_true", help="of every order that is still to be made")
    needs.add_argument("--csv", type=Path, metavar="FILE", help="write the shopping list as CSV")
    needs.set_defaults(run=_needs)

    quote = commands.add_parser("quote", help="what jobs cost, line by line")
    _things(quote)
    quote.add_argument("-o", dest="out", type=Path, metavar="FILE", help="write it: a .pdf, .csv or .json")
    quote.set_defaults(run=_quote)


def _things(parser: Any) -> None:
    parser.add_argument("jobs", nargs="*", metavar="JOB.tailor[=COUNT]", help="a job, and how many are to be made")
    parser.add_argument("--order", metavar="NAME", help="an order of the shop book instead")
    parser.add_argument("--book", type=Path, metavar="FILE", help="the shop book, if not where it usually lies")
    parser.add_argument("--json", action="store_true")


def _asked(arguments: argparse.Namespace, shop: Shop) -> tuple[str, list[Made]]:
    """What is to be made, and what it is called together."""
    from tailor.core.shop.made import made
    from tailor.files import job_file

    if bool(arguments.jobs) == bool(arguments.order):
        both = "jobs and an order are both given" if arguments.jobs else "no job is given"
        raise InputError(both, "what is to be made", "give JOB.tailor, or --order NAME")
    if arguments.order:
        order = shop.order(arguments.order)
        return order.name, [made(line.job.by(arguments.maker), line.count) for line in order.lines]
    things = [made(job, count) for job, count in job_file.counted(arguments.jobs, arguments.maker)]
    return ", ".join(thing.name for thing in things), things


def _needs(arguments: argparse.Namespace) -> int:
    from tailor.core.shop.made import ordered
    from tailor.core.shop.needs import needs, needs_still
    from tailor.core.shop.stock import against, shopping
    from tailor.files import atomic
    from tailor.files.shop_book.book import Book

    shop = Book.usual(arguments.book).shop()
    if arguments.orders and not arguments.jobs and not arguments.order:
        wanted = [need for order in shop.orders if order.open
                  for need in needs_still(order.id, ordered(order, arguments.maker), shop)]  # fmt: skip
    else:
        things = _asked(arguments, shop)[1]
        order = arguments.order and shop.order(arguments.order).id
        wanted = list(needs_still(order, things, shop) if order else needs(things))
    wants = against(wanted, shop.stock)
    if arguments.csv:
        text = io.StringIO()
        rows = csv.writer(text, lineterminator="\n")
        rows.writerow(("what", "needed", "there", "buy", "unit", "for"))
        for want in shopping(wants):
            row = (want.need.amount, want.there, want.buy)
            rows.writerow((want.need.said, *(f"{x:.5g}" for x in row), want.need.unit, want.need.why))
        atomic.write(arguments.csv, text.getvalue().encode())
    if arguments.json:
        found = [
            {"kind": w.need.kind, "name": w.need.name, "size": w.need.size, "unit": w.need.unit,
             "needed": w.need.amount, "there": w.there, "buy": w.buy, "for": w.need.why} for w in wants
        ]  # fmt: skip
        print(json.dumps(found, ensure_ascii=False))
        return 0
    for want in wants:
        lacking = f"; to buy: {want.missing.amounting}" if want.buy > 0 else ""
        print(f"{want.need.amounting} of {want.need.said} (for {want.need.why}){lacking}")
    return 0


def _quote(arguments: argparse.Namespace) -> int:
    from tailor.core.shop.quote import quote
    from tailor.files import quote_sheet
    from tailor.files.shop_book.book import Book

    shop = Book.usual(arguments.book).shop()
    title, things = _asked(arguments, shop)
    found = quote(things, shop.sorts, shop.stock, shop.terms, shop.rates)
    if arguments.out is not None:
        many = tuple((thing.count, thing.name) for thing in things)
        quote_sheet.write(found, title, many, shop.terms, arguments.out)
    if arguments.json:
        print(json.dumps(quote_sheet.plain(found, title), ensure_ascii=False))
        return 0
    for item in found.items:
        price = "no price" if item.price is None else shop.terms.said(item.sum)
        print(f"{price:>12}  {item.what}, {item.amounting} ({item.why})")
    print(f"{shop.terms.said(found.total):>12}  in all, with a margin of {found.margin:.0%}")
    return 0
