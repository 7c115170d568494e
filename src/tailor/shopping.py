"""The commands `tailor shop`, `needs` and `quote`: the shop's book, what jobs need, and what they cost."""

from __future__ import annotations

import argparse
import csv
import io
import json
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from tailor.core import incoming
from tailor.core.errors import InputError

if TYPE_CHECKING:
    from tailor.core.shop.made import Made
    from tailor.core.shop.shop import Shop


def add(commands: Any) -> None:
    """Add the commands to the others."""
    shop = commands.add_parser("shop", help="the shop's book: leathers, hides, stock and orders")
    shop.add_argument("--book", type=Path, metavar="FILE", help="where it lies, if not where it usually does")
    deeds = shop.add_subparsers(metavar="DEED", required=True)
    shown = deeds.add_parser("show", help="what is in it")
    shown.add_argument("--json", action="store_true")
    shown.set_defaults(run=_show)
    out = deeds.add_parser("export", help="write all of it as JSON and CSV")
    out.add_argument("folder", type=Path, metavar="DIR")
    out.set_defaults(run=_export)
    in_ = deeds.add_parser("import", help="read all of it; what is there under the same id is replaced")
    in_.add_argument("folder", type=Path, nargs="?", metavar="DIR")
    in_.add_argument("--demo", action="store_true", help="the shop of the demo instead")
    in_.set_defaults(run=_import)
    order = deeds.add_parser("order", help="take an order, or add jobs to one")
    order.add_argument("name", metavar="NAME")
    order.add_argument("jobs", nargs="*", metavar="JOB.tailor[=COUNT]")
    order.add_argument("--for", dest="whom", metavar="WHOM")
    order.add_argument("--wanted", type=_day, metavar="YYYY-MM-DD")
    order.add_argument("--promised", type=_day, metavar="YYYY-MM-DD")
    order.add_argument("--state", metavar="STATE", help="asked for, taken, ready, handed over or dropped")
    order.set_defaults(run=_order)
    for name, text in (("undo", "undo the last change"), ("redo", "do it again")):
        deeds.add_parser(name, help=text).set_defaults(run=_turn_back, redo=name == "redo")

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


def _day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        said = f"{incoming.quoted(text)} is no day; give one such as 2026-04-30"
        raise argparse.ArgumentTypeError(said) from None


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


def _show(arguments: argparse.Namespace) -> int:
    from tailor.core.shop.made import ordered
    from tailor.core.shop.needs import needs
    from tailor.core.shop.stock import against, shopping
    from tailor.files.shop_book import rows
    from tailor.files.shop_book.book import Book

    book = Book.usual(arguments.book)
    shop = book.shop()
    if arguments.json:
        print(json.dumps(rows.all_rows(shop), ensure_ascii=False))
        return 0
    if book.read_only:
        print(f"{book.read_only}.")
    for sort in shop.sorts:
        lying = [skin for skin in shop.skins if skin.sort == sort.id and not skin.used]
        area = sum(skin.area for skin in lying) / 1e6
        offcuts = sum(bool(skin.off) for skin in lying)
        print(f"{sort.name}: {area:.2f} m² of it, {len(lying) - offcuts} hides and {offcuts} offcuts")
    for order in sorted(shop.orders, key=lambda order: (order.due or date.max, order.name)):
        due = f", by {order.due}" if order.due else ""
        print(f"{order.name}: {order.state}, {order.many} to make{due}")
    wanted = [thing for order in shop.orders if order.open for thing in ordered(order)]
    for want in shopping(against(needs(wanted), shop.stock)):
        print(f"to buy: {want.missing.amounting} of {want.need.said} (for {want.need.why})")
    return 0


def _export(arguments: argparse.Namespace) -> int:
    from tailor.files.shop_book import exchange
    from tailor.files.shop_book.book import Book

    for path in exchange.write(Book.usual(arguments.book).shop(), arguments.folder):
        print(path)
    return 0


def _import(arguments: argparse.Namespace) -> int:
    from tailor.files.shop_book import exchange
    from tailor.files.shop_book.book import Book

    if arguments.demo == (arguments.folder is not None):
        raise InputError("a folder or the demo is wanted", "tailor shop import", "give DIR, or --demo")
    if arguments.demo:
        from tailor.demo.shop import shop as of_the_demo

        shop, said = of_the_demo(date.today()), "the shop of the demo"
    else:
        shop, said = exchange.read(arguments.folder), f"import from {arguments.folder.name}"
    Book.usual(arguments.book).lay_in(incoming.name_from(said), shop)
    print(f"{len(shop.sorts)} leathers, {len(shop.skins)} skins, {len(shop.stock)} articles, {len(shop.orders)} orders")
    return 0


def _order(arguments: argparse.Namespace) -> int:
    from tailor.core.shop.orders import Order, State
    from tailor.files import job_file
    from tailor.files.shop_book.book import Book

    book = Book.usual(arguments.book)
    was = next((order for order in book.shop().orders if arguments.name in (order.name, order.id)), None)
    told = {name: getattr(arguments, name) for name in ("whom", "wanted", "promised")}
    if arguments.state is not None:
        states = {str(state): state for state in State}
        if arguments.state not in states:
            raise InputError(
                f"{incoming.quoted(arguments.state)} is no state", "--state", f"give {' or '.join(states)}"
            )
        told["state"] = states[arguments.state]
    name = incoming.named(arguments.name, "name of an order")
    order = replace(was or Order(name, name), **{k: v for k, v in told.items() if v is not None})
    for job, count in job_file.counted(arguments.jobs, arguments.maker):
        order = order.with_job(job, count)
    book.put(f"order {order.name}", (was, order))
    print(f"{order.name}: {order.state}, {order.many} to make" + (f", by {order.due}" if order.due else ""))
    return 0


def _turn_back(arguments: argparse.Namespace) -> int:
    from tailor.files.shop_book.book import Book

    book = Book.usual(arguments.book)
    said = book.redo() if arguments.redo else book.undo()
    done = "done again" if arguments.redo else "undone"
    print(f"{done}: {said}" if said else f"there is nothing to be {done}")
    return 0


def _needs(arguments: argparse.Namespace) -> int:
    from tailor.core.shop.made import ordered
    from tailor.core.shop.needs import needs
    from tailor.core.shop.stock import against, shopping
    from tailor.files import atomic
    from tailor.files.shop_book.book import Book

    shop = Book.usual(arguments.book).shop()
    if arguments.orders and not arguments.jobs and not arguments.order:
        things = [thing for order in shop.orders if order.open for thing in ordered(order)]
    else:
        things = _asked(arguments, shop)[1]
    wants = against(needs(things), shop.stock)
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
