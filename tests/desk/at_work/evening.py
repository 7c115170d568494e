"""An evening of the window's shop: the one order, a clock held by the test, what was worked and what is next."""

from __future__ import annotations

from datetime import date, datetime, timedelta

from tailor import demo
from tailor.core.shop.orders import Order
from tailor.core.shop.progress import Worked
from tailor.core.shop.shop import Shop
from tailor.desk.at_work import AtWork
from tailor.desk.window import Window

EVENING = datetime(2026, 5, 4, 18, 0)  # a Monday
CARDS = Order("cards", "cards", promised=date(2026, 5, 8)).with_job(demo.job("crew-cards"))


class Clock:
    """The bench's clock, in the hands of the test."""

    def __init__(self, work: AtWork) -> None:
        self.work, self.now = work, EVENING
        work.clock = lambda: self.now

    def later(self, minutes: float) -> None:
        self.now += timedelta(minutes=minutes)
        self.work._tick()


def shop(shown: Window) -> Shop:
    assert shown.counter.shop is not None
    return shown.counter.shop


def worked(shown: Window, name: str) -> Worked:
    return next(one for one in shop(shown).worked if one.name == name)


def now(work: AtWork) -> str:
    assert work.next.turn is not None
    return work.next.turn.task.doing.name
