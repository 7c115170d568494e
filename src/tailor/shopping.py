"""The command `tailor shop`: the shop's book, shown, written out and read in; orders taken, and hands."""

from __future__ import annotations

import argparse
import json
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from tailor.core import incoming
from tailor.core.errors import InputError

if TYPE_CHECKING:
    pass


def add(commands: Any) -> None:
    """Add the command to the others."""
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
    sheet = deeds.add_parser("sheet", help="write an order's sheet: its things, their pieces, and what they take")
    sheet.add_argument("name", metavar="NAME")
    sheet.add_argument("-o", dest="out", required=True, type=Path, metavar="SHEET.pdf")
    sheet.set_defaults(run=_sheet)
    hand = deeds.add_parser("hand", help="who works in the shop, and when")
    hand.add_argument("name", metavar="NAME")
    hand.add_argument("--hours", metavar="HOURS", help="such as 'Mon-Fri 18:00-21:00, Sat 9-13'")
    hand.add_argument(
        "--off", action="append", type=_day, metavar="YYYY-MM-DD", help="a day without any; again for more"
    )
    hand.add_argument("--gone", action="store_true", help="no longer works there")
    hand.set_defaults(run=_hand)
    for name, text in (("undo", "undo the last change"), ("redo", "do it again")):
        deeds.add_parser(name, help=text).set_defaults(run=_turn_back, redo=name == "redo")


def _day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        said = f"{incoming.quoted(text)} is no day; give one such as 2026-04-30"
        raise argparse.ArgumentTypeError(said) from None


def _show(arguments: argparse.Namespace) -> int:
    from tailor.core.shop.made import ordered
    from tailor.core.shop.needs import needs_still
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
    for hand in shop.hands:
        print(f"{hand.name}: {sum(end - begin for _, begin, end in hand.hours) / 60:g} hours a week")
    for order in sorted(shop.orders, key=lambda order: (order.due or date.max, order.name)):
        due = f", by {order.due}" if order.due else ""
        print(f"{order.name}: {order.state}, {order.many} to make{due}")
    wanted = [need for order in shop.orders if order.open
              for need in needs_still(order.id, ordered(order, arguments.maker), shop)]  # fmt: skip
    for want in shopping(against(wanted, shop.stock)):
        print(f"to buy: {want.missing.amounting} of {want.need.said} (for {want.need.why})")
    return 0


def _export(arguments: argparse.Namespace) -> int:
    from tailor.files.shop_book import exchange
    from tailor.files.shop_book.book import Book

    book = Book.usual(arguments.book)
    for path in exchange.write(book.shop(), arguments.folder, book.log()):
        print(path)
    return 0


def _import(arguments: argparse.Namespace) -> int:
    from tailor.files.shop_book import exchange
    from tailor.files.shop_book.book import Book

    if arguments.demo == (arguments.folder is not None):
        raise InputError("a folder or the demo is wanted", "tailor shop import", "give DIR, or --demo")
    if arguments.demo:
        from tailor.demo.log import log as logged
        from tailor.demo.shop import shop as of_the_demo

        shop, log, said = of_the_demo(date.today()), logged(date.today()), "the shop of the demo"
    else:
        shop, log = exchange.read(arguments.folder)
        said = f"import from {arguments.folder.name}"
    Book.usual(arguments.book).lay_in(incoming.name_from(said), shop, log)
    print(f"{len(shop.sorts)} leathers, {len(shop.skins)} skins, {len(shop.stock)} articles, {len(shop.orders)} orders")
    return 0


def _order(arguments: argparse.Namespace) -> int:
    from tailor.core.shop.made import ordered
    from tailor.core.shop.needs import needs_still
    from tailor.core.shop.orders import Order, State
    from tailor.core.shop.stock import against, used_up
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
    used: tuple[Any, ...] = ()
    if was is not None and was.open and order.state is State.READY:
        shop = book.shop()
        left = needs_still(order.id, ordered(order, arguments.maker), shop)
        used = used_up(against(left, shop.stock))  # what it needed is no longer there
    book.put(f"order {order.name}", (was, order), *used)
    print(f"{order.name}: {order.state}, {order.many} to make" + (f", by {order.due}" if order.due else ""))
    return 0


def _sheet(arguments: argparse.Namespace) -> int:
    from tailor.files import order_sheet
    from tailor.files.shop_book.book import Book

    shop = Book.usual(arguments.book).shop()
    order_sheet.write(shop.order(arguments.name), shop, arguments.out, maker=arguments.maker)
    return 0


def _hand(arguments: argparse.Namespace) -> int:
    from tailor.core.shop.hands import Hand, hours
    from tailor.files.shop_book.book import Book

    book = Book.usual(arguments.book)
    was = next((hand for hand in book.shop().hands if arguments.name in (hand.name, hand.id)), None)
    if arguments.gone:
        if was is None:
            said = f"nobody is called {incoming.quoted(arguments.name)}"
            raise InputError(said, "shop book", "name one who works there")
        book.put(f"{was.name} is gone", (was, None))
        return 0
    hand = was or Hand(arguments.name, arguments.name)
    if arguments.hours is not None:
        hand = replace(hand, hours=hours(arguments.hours))
    hand = replace(hand, off=tuple(sorted({*hand.off, *(arguments.off or ())})))
    book.put(f"hours of {hand.name}", (was, hand))
    week = sum(end - begin for _, begin, end in hand.hours) / 60
    print(f"{hand.name}: {week:g} hours a week")
    return 0


def _turn_back(arguments: argparse.Namespace) -> int:
    from tailor.files.shop_book.book import Book

    book = Book.usual(arguments.book)
    said = book.redo() if arguments.redo else book.undo()
    done = "done again" if arguments.redo else "undone"
    print(f"{done}: {said}" if said else f"there is nothing to be {done}")
    return 0
