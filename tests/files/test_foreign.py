"""Outlines and meshes from elsewhere: at true size whatever their conventions, and refused when hostile."""

import sys
import time
from dataclasses import replace

import ezdxf
import numpy as np
import pytest
import shapely
import trimesh
from PIL import Image as Photo

from tailor.core.carried.outline import sound
from tailor.core.errors import InputError
from tailor.files import guarded, outlines, photos
from tailor.files.kinds import KINDS
from tests.sweeps import some

SYSTEM_PYTHON = sys.executable
HEAD = '<svg xmlns="http://www.w3.org/2000/svg" '
# A plate 40 x 60 mm with one rounded corner, said in many ways; each is told its outline's size.
SVGS = {
    "millimetres": 'width="100mm" height="100mm" viewBox="0 0 100 100"><rect x="5" y="5" width="40" height="60"/>',
    "inches": 'width="4in" height="4in" viewBox="0 0 101.6 101.6"><rect width="40" height="60"/>',
    "points and a viewBox": 'width="144pt" height="144pt" viewBox="0 0 508 508"><rect width="400" height="600"/>',
    "pixels": 'width="400px" height="400px"><rect width="151.1811" height="226.7717"/>',
    "pixels with a viewBox": 'width="377.9528px" height="377.9528px" viewBox="0 0 1000 1000">'
    '<rect width="400" height="600"/>',
    "nested transforms": 'width="200mm" height="200mm" viewBox="0 0 200 200">'
    '<g transform="translate(90 20) rotate(90)"><g transform="scale(2)">'
    '<path transform="matrix(1 0 0 .5 3 4)" d="m0 0h20v60h-20z"/></g></g>',
    "a use of a definition": 'xmlns:xlink="http://www.w3.org/1999/xlink" width="200mm" height="200mm" '
    'viewBox="0 0 200 200"><defs><rect id="a" width="40" height="60"/></defs><use xlink:href="#a" x="9"/>',
    "loose lines that meet": 'width="90mm" height="90mm" viewBox="0 0 90 90"><path d="M0 0L40 0"/>'
    '<path d="M40 60L40 0"/><line x1="0" y1="0" x2="0" y2="60"/><polyline points="0,60 40,60" fill="none"/>',
}  # fmt: skip
SVGS = {name: f"{HEAD}{said}</svg>" for name, said in SVGS.items()}


def hasten(monkeypatch: pytest.MonkeyPatch, seconds: int) -> None:
    """Give drawings no longer than so many seconds."""
    found = {n: replace(k, seconds=min(k.seconds, seconds)) if k.way == "Outline" else k for n, k in KINDS.items()}
    monkeypatch.setattr("tailor.files.kinds.KINDS", found)


def size(outline: np.ndarray) -> list[float]:
    return sorted(np.ptp(outline, axis=0).tolist())


@pytest.mark.parametrize("said", SVGS)
def test_svg_comes_in_at_true_size(said: str, tmp_path) -> None:
    (tmp_path / "a.svg").write_text(SVGS[said])
    assert size(outlines.read(tmp_path / "a.svg")[0]) == pytest.approx([40, 60], abs=0.05)


def test_svg_curves_and_arcs_are_followed_and_the_largest_comes_first(tmp_path) -> None:
    (tmp_path / "a.svg").write_text(
        HEAD + 'width="200mm" height="200mm" viewBox="0 0 200 200"><circle cx="100" cy="100" r="10"/>'
        '<path d="M20 100a80 30 0 1 0 160 0a80 30 0 1 0-160 0z M60 100 C60 90 80 90 80 100 S60 110 60 100z"/></svg>'
    )
    loops = outlines.read(tmp_path / "a.svg")
    assert shapely.Polygon(loops[0]).area == pytest.approx(np.pi * 80 * 30, rel=1e-3)
    assert shapely.Polygon(loops[1]).area == pytest.approx(np.pi * 100, rel=3e-3)
    assert len(loops) == 3


@pytest.mark.parametrize(("code", "scale", "unit"), [(4, 1, None), (1, 25.4, None), (5, 10, None), (0, 25.4, "in")])
def test_dxf_comes_in_at_true_size(code: int, scale: float, unit: str | None, tmp_path) -> None:
    document = ezdxf.new("R2010")
    document.units = code
    space, s = document.modelspace(), 1 / scale
    # a stadium by bulges; a spline ring; a loose rectangle of lines and an arc; a block scaled and turned
    space.add_lwpolyline([(0, 0, 0), (100 * s, 0, 1), (100 * s, 40 * s, 0), (0, 40 * s, 1)], format="xyb", close=True)
    block = document.blocks.new("PLATE")
    block.add_lwpolyline([(0, 0), (1, 0), (1, 1), (0, 1)], close=True)
    space.add_blockref("PLATE", (300 * s, 0), {"xscale": 20 * s, "yscale": 30 * s, "rotation": 30})
    for a, b in (((0, 100), (50, 100)), ((50, 100), (50, 130)), ((0, 130), (0, 100))):
        space.add_line((a[0] * s, a[1] * s), (b[0] * s, b[1] * s))
    space.add_arc((25 * s, 130 * s), 25 * s, 0, 180)
    ring = np.array([(np.cos(t), np.sin(t)) for t in np.linspace(0, 2 * np.pi, 25)]) * 15 * s + 400 * s
    space.add_spline(fit_points=[(*p, 0) for p in ring])
    document.saveas(tmp_path / "a.dxf")
    loops = outlines.read(tmp_path / "a.dxf", unit)
    areas = [shapely.Polygon(p).area for p in loops]
    wanted = [100 * 40 + np.pi * 400, 50 * 30 + np.pi * 25**2 / 2, np.pi * 225, 600]
    assert areas == pytest.approx(wanted, rel=6e-3)
    if code == 0:
        with pytest.raises(InputError, match="does not say its unit"):
            outlines.read(tmp_path / "a.dxf")


def test_what_is_written_is_read_back(tmp_path) -> None:
    drawn = sound(np.array([[0, 0], [70, 0], [70, 150], [35, 190], [0, 150]], dtype=float))
    for name in ("o.svg", "o.dxf"):
        outlines.write(drawn, tmp_path / name)
        back = outlines.read(tmp_path / name)[0]
        assert shapely.Polygon(back).symmetric_difference(shapely.Polygon(drawn - drawn.min(0) + back.min(0))).area < 15
    with pytest.raises(InputError, match="name it"):
        outlines.write(drawn, tmp_path / "o.png")


def bomb(levels: int) -> str:
    groups = "".join(f'<g id="g{k + 1}">' + f'<use href="#g{k}"/>' * 10 + "</g>" for k in range(levels))
    return (
        HEAD
        + f'width="9mm" height="9mm"><defs><path id="g0" d="M0 0h5v5z"/>{groups}</defs><use href="#g{levels}"/></svg>'
    )


def nested_inserts(path) -> None:
    document = ezdxf.new("R2010")
    document.blocks.new("B0").add_line((0, 0), (1, 1))
    for k in range(1, 12):
        block = document.blocks.new(f"B{k}")
        for n in range(10):
            block.add_blockref(f"B{k - 1}", (n, 0))
    document.modelspace().add_blockref("B11", (0, 0))
    document.saveas(path)


HOSTILE = {
    "entities.svg": b'<!DOCTYPE s [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]><svg>&b;</svg>',
    "uses.svg": bomb(12).encode(),
    "truncated.svg": SVGS["millimetres"][:90].encode(),
    "notnumbers.svg": (HEAD + 'width="9mm" height="9mm"><path d="M0 0 L nan 5 L 5 inf Z"/></svg>').encode(),
    "open.svg": (HEAD + 'width="9mm" height="9mm"><path d="M0 0 L 5 5 L 5 9"/></svg>').encode(),
    "empty.svg": b"",
    "other.svg": b"<html><body/></html>",
    "binary.dxf": bytes(range(256)) * 40,
    "empty.dxf": b"",
    "truncated.dxf": b"0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n10\n1.0\n20\n",
    "wrong.png": b"x",
}


@pytest.mark.parametrize("name", some([*HOSTILE, "inserts.dxf", "huge.svg"]))
def test_a_hostile_outline_is_refused_in_a_sentence_within_seconds(name: str, tmp_path, monkeypatch) -> None:
    hasten(monkeypatch, 4)
    path = tmp_path / name
    if name == "inserts.dxf":
        nested_inserts(path)
    elif name == "huge.svg":
        with path.open("wb") as file:
            file.truncate(100_000_000)
    else:
        path.write_bytes(HOSTILE[name])
    begun = time.monotonic()
    with pytest.raises(InputError) as refused:
        outlines.read(path, "mm")
    assert time.monotonic() - begun < 15
    assert name in refused.value.where
    assert refused.value.remedy


@pytest.mark.parametrize("kind", ["stl", "obj", "ply"])
def test_meshes_are_read_and_damaged_ones_refused(kind: str, tmp_path) -> None:
    box = trimesh.creation.box([60, 120, 30])
    box.export(tmp_path / f"b.{kind}")
    assert sorted(outlines.read_mesh(tmp_path / f"b.{kind}").extent) == pytest.approx([30, 60, 120])
    whole = (tmp_path / f"b.{kind}").read_bytes()
    for bad in (whole[: len(whole) // 3], b"", b"\x00" * 90, b"solid nothing\nendsolid"):
        (tmp_path / f"x.{kind}").write_bytes(bad)
        with pytest.raises(InputError, match=f"x.{kind}"):
            outlines.read_mesh(tmp_path / f"x.{kind}")


def test_pictures_that_cannot_be_read_are_refused(tmp_path) -> None:
    (tmp_path / "a.jpg").write_bytes(b"not a picture")
    Photo.new("1", (20000, 20000)).save(tmp_path / "b.png")
    Photo.new("RGB", (40, 30), "white").save(tmp_path / "c.png", dpi=(300, 300))
    whole = (tmp_path / "c.png").read_bytes()
    (tmp_path / "d.png").write_bytes(whole[:50])
    for name, said in (
        ("a.jpg", "as a picture"),
        ("b.png", "far too many pixels"),
        ("d.png", "damaged|picture"),
        ("e.png", "no such"),
    ):
        with pytest.raises(InputError, match=said):
            photos.read(tmp_path / name)
    assert photos.read(tmp_path / "c.png").dpi == pytest.approx(300, abs=0.1)


def test_a_reader_that_dies_or_hangs_is_told_as_such(tmp_path, monkeypatch) -> None:
    path = tmp_path / "a.svg"
    path.write_text(SVGS["millimetres"])
    for stand_in in ("import os; os.kill(os.getpid(), 9)", "bytearray(10**11)", "import time; time.sleep(60)"):
        monkeypatch.setattr(guarded.sys, "executable", str(_python(tmp_path, stand_in)))
        hasten(monkeypatch, 2)
        with pytest.raises(InputError, match=r"a\.svg: reading it takes far more"):
            outlines.read(path)


def _python(folder, code: str):
    """Something that is called like the interpreter, and runs the code instead."""
    made = folder / "python"
    made.write_text(f"#!{SYSTEM_PYTHON}\n{code}\n")
    made.chmod(0o755)
    return made


def test_reading_can_be_stopped_and_leaves_no_child_behind(tmp_path, monkeypatch) -> None:
    path = tmp_path / "a.svg"
    path.write_text(SVGS["millimetres"])
    monkeypatch.setattr(guarded.sys, "executable", str(_python(tmp_path, "import time; time.sleep(60)")))

    class EnoughError(Exception):
        pass

    asked = []

    def still() -> None:
        asked.append(1)
        if len(asked) > 2:
            raise EnoughError

    children = []
    real = guarded.subprocess.Popen
    monkeypatch.setattr(guarded.subprocess, "Popen", lambda *a, **k: children.append(real(*a, **k)) or children[-1])
    begun = time.monotonic()
    with pytest.raises(EnoughError):
        outlines.read(path, still=still)
    assert time.monotonic() - begun < 5
    assert children[0].poll() is not None
