from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tailor.core.errors import InputError
from tailor.core.keys import KEYS, key
from tailor.core.leather.leather import Leather
from tailor.core.leather.stack import Layer, Stack, thread_rule
from tailor.core.maker import usual
from tailor.core.measure import Kind
from tailor.core.reason import greatest, stated
from tailor.core.settings import Settings
from tailor.core.units import System, retold


@pytest.mark.parametrize("name", [n for n, k in KEYS.items() if k.kind not in (Kind.CHOICE, Kind.SIZES, Kind.WORD)])
def test_every_number_has_limits_and_says_so_beyond_them(name: str) -> None:
    setting = key(name)
    assert setting.low < setting.high
    for value, said in ((setting.low - 1, "below the least"), (setting.high + 1, "above the most")):
        with pytest.raises(InputError, match=said) as caught:
            Settings({name: value})
        assert caught.value.where == name
    for value in (float("nan"), float("inf"), True, None):
        with pytest.raises(InputError, match=name):
            Settings({name: value})  # type: ignore[dict-item]
    if setting.usual is not None:
        assert setting.low <= float(setting.usual) <= setting.high
        assert Settings().number(name) == setting.usual


@pytest.mark.parametrize("name", [n for n, k in KEYS.items() if k.kind is Kind.CHOICE])
def test_every_choice_takes_its_words_and_no_other(name: str) -> None:
    words = usual().words(key(name))
    assert key(name).usual in words
    for word in words:
        assert Settings().typed(name, f" {word.upper()} ").word(name) == word
    with pytest.raises(InputError, match=" or ".join(words)):
        Settings().typed(name, "neither")


def test_pinning_changes_only_what_is_pinned() -> None:
    first = Settings({"welt.layers": 2})
    second = first.pin("seam.margin", 5).release("welt.layers")
    assert (dict(first.pinned), dict(second.pinned)) == ({"welt.layers": 2}, {"seam.margin": 5.0})
    assert list(second) == ["seam.margin"]
    with pytest.raises(TypeError):
        first.pinned["welt.layers"] = 3  # type: ignore[index]


@pytest.mark.parametrize(
    ("name", "text", "value"),
    [
        ("leather.neutral", "40%", 0.4), ("leather.neutral", "0,4", 0.4), ("fit.approach", "30°", 30.0),
        ("fit.approach", "30 deg", 30.0), ("welt.layers", "2", 2), ("seam.pitch", "8 to the inch", 3.175),
        ("leather.thickness", "8 oz", 3.175), ("mouth.y", "-5", -5.0),
    ],
)  # fmt: skip
def test_values_are_typed_as_makers_say_them(name: str, text: str, value: float) -> None:
    assert Settings().typed(name, text).pinned[name] == pytest.approx(value)


def test_inches_are_meant_where_the_maker_reads_inches() -> None:
    assert Settings().typed("belt.width", "1.5", System.INCH).number("belt.width") == pytest.approx(38.1)
    assert retold("give at least 25.4 mm, not 3 mm", System.FRACTION) == 'give at least 1", not 1/8"'
    assert retold("give at least 25.4 mm", System.MM) == "give at least 25.4 mm"


@given(st.lists(st.floats(0.5, 5), min_size=2, max_size=6), st.floats(2, 8), st.integers(1, 90))
def test_a_stack_sums_its_layers_and_feeds_the_thread(layers: list[float], pitch: float, stitches: int) -> None:
    stack = Stack(tuple(Layer(f"layer {k}", t) for k, t in enumerate(layers)))
    assert stack.height == pytest.approx(sum(layers))
    assert 3 <= stack.margin() <= 7
    low, high = thread_rule(pitch * stitches)
    assert high / low == pytest.approx(10 / 8)
    thinned = Stack((Layer("welt", 4, skive=0.5), *stack.layers))
    assert thinned.height == pytest.approx(2 + stack.height)


def test_leather_bent_grain_inside_has_its_neutral_mirrored() -> None:
    leather = Leather(4, neutral=0.3, fold_radius=0.75)
    inside = leather.grain_inside()
    assert leather.offset + inside.offset == pytest.approx(leather.thickness)
    assert inside.inside_radius == leather.inside_radius == 3
    assert leather.quarter_bend == pytest.approx((3 + 1.2) * 3.14159265 / 2)
    assert Leather(3, temper="soft").approach > Leather(3, temper="firm").approach


def test_the_greatest_demand_wins_and_the_losers_are_kept() -> None:
    reason = greatest("seam.toe", "mm", {"a": 1.0, "b": 4.0, "c": 2.0}, {"from": 1.5})
    assert (reason.rule, reason.value, dict(reason.others)) == ("b", 4.0, {"a": 1.0, "c": 2.0})
    pinned = reason.pin(9.0)
    assert pinned.pinned
    assert not reason.pinned
    assert pinned.others["b"] == 4.0
    assert stated("x", 2, "mm", "said", y=1).inputs == {"y": 1}


def test_a_row_of_sizes_takes_any_units_and_says_which_is_wrong() -> None:
    kept = Settings().typed("tools.sizes", "14; 3/8in ; 9mm")
    assert kept.word("tools.sizes") == "14;9.525;9"
    assert key("tools.sizes").say("14;9.5", System.MM) == "14; 9.5 mm"
    for text, said in (("14; wide", "wide"), ("14;300", "300 mm in it"), (" ", "no row of lengths")):
        with pytest.raises(InputError, match=said):
            Settings().typed("tools.sizes", text)


def test_a_name_is_kept_as_it_is_typed() -> None:
    assert Settings().typed("patch.on", " Front ").word("patch.on") == "front"
    for text in ("", "x" * 60, "a\tb"):
        with pytest.raises(InputError, match="is no name"):
            Settings({"patch.on": text})
