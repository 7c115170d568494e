from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tailor.core.errors import InputError
from tailor.core.keys import KEYS
from tailor.core.maker import usual
from tailor.core.measure import Kind
from tailor.core.settings import Settings
from tailor.core.units import System, format_length, format_weight, parse_length, parse_pitch


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("9.5mm", 9.5), ("9,5", 9.5), ("2 cm", 20), ("1 in", 25.4), ('1 1/8"', 28.575), ("1-1/8 in", 28.575),
        ("1 ⅛”", 28.575), ("3/8", 9.525), ("½", 12.7), ("7 oz", 2.778125), ("7-8 oz", 2.9765625),
        ("7–8oz", 2.9765625), ("38+1.5", 39.5), ("38 - 1.5 mm", 36.5), ("1 1/2 + 1/4 in", 44.45), ("-3", -3),
        ("1+1/16 in", 26.9875),
    ],
)  # fmt: skip
def test_makers_lengths_are_read(text: str, mm: float) -> None:
    assert parse_length(text) == pytest.approx(mm, abs=1e-9)


def test_a_plain_number_is_in_the_makers_unit_and_spacing_may_count_stitches() -> None:
    assert parse_length("2", bare="in") == pytest.approx(50.8)
    assert parse_pitch("6 per inch") == parse_pitch("6/in") == pytest.approx(25.4 / 6)
    assert parse_pitch("4") == 4


@pytest.mark.parametrize(
    "text", ["", "abc", "1//2", "1/0", "3 4", "mm", "1e5", "nan", "inf", "5 stone", "++2", "8-7 oz"]
)
def test_what_is_no_length_is_refused_in_one_sentence(text: str) -> None:
    with pytest.raises(InputError) as caught:
        parse_length(text, where="station 3, front")
    assert str(caught.value).startswith("station 3, front: ")
    assert "\n" not in str(caught.value)


@given(st.floats(-3000, 3000), st.sampled_from([16, 32, 64]))
def test_lengths_come_back_as_they_were_shown(mm: float, denominator: int) -> None:
    coarse = {System.MM: 0.0501, System.INCH: 0.0005 * 25.4 + 1e-9, System.FRACTION: 25.4 / denominator / 2 + 1e-9}
    for system, within in coarse.items():
        shown = format_length(mm, system, denominator)
        again = parse_length(shown, system.bare)
        assert again == pytest.approx(mm, abs=within)
        assert format_length(again, system, denominator) == shown


def test_weights_are_shown_to_half_an_ounce() -> None:
    assert format_weight(2.9765625) == "7.5 oz"
    assert format_length(28.575, System.FRACTION, 16) == '1 1/8"'


def test_every_setting_takes_back_what_it_shows_and_auto_lets_it_go() -> None:
    for name, key in KEYS.items():
        if key.kind in (Kind.SIZES, Kind.WORD):
            continue
        words = usual().words(key)
        value = words[-1] if words else max(key.low, min(key.high, 3.0 if key.unit else 0.5))
        pinned = Settings().typed(name, key.say(value, System.MM))
        assert pinned.pinned[name] == value or pinned.pinned[name] == pytest.approx(value, abs=0.06)
        assert name not in pinned.typed(name, " Auto ")
