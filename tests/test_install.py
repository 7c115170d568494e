"""Installed for one user in a bare home, and taken away again."""

from __future__ import annotations

import argparse
import configparser
import os
import subprocess
import sys
from pathlib import Path
from xml.etree import ElementTree

import numpy

from tailor import demo
from tailor.cli import _parser
from tailor.files import job_file

ROOT = Path(__file__).parents[1]


def test_it_is_installed_in_a_bare_home_and_leaves_jobs_alone_when_it_goes(tmp_path: Path) -> None:
    home = tmp_path / "home"
    home.mkdir()
    job = home / "mine.tailor"
    job_file.save(demo.job("whetstone"), job)
    there = {"HOME": str(home), "PATH": os.environ["PATH"], "LANG": "C.UTF-8"}
    script = [sys.executable, str(ROOT / "packaging" / "install.py")]

    def run(*words: str, **more: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run([*words], capture_output=True, text=True, env={**there, **more}, check=False, cwd=home)

    done = run(*script, "--pip=--no-deps", "--pip=--no-build-isolation")
    assert done.returncode == 0, done.stderr
    command, data = home / ".local" / "bin" / "tailor", home / ".local" / "share"
    assert str(command) in done.stdout
    libraries = str(Path(numpy.__file__).parents[1])  # as if they had been fetched
    checked = run(str(command), "check", str(job), PYTHONPATH=libraries)
    assert checked.returncode == 0, checked.stderr
    found = run(str(command.resolve().parent / "python"), "-c", "import tailor; print(tailor.__file__)")
    assert str(home) in found.stdout  # the installed one, with all it ships
    assert (Path(found.stdout.strip()).parent / "desk" / "guide.md").exists()
    entry = configparser.ConfigParser(interpolation=None)
    entry.read(data / "applications" / "tailor.desktop")
    kind = ElementTree.parse(data / "mime" / "packages" / "tailor.xml").getroot()[0].get("type")
    assert entry["Desktop Entry"]["MimeType"] == f"{kind};"
    assert entry["Desktop Entry"]["Exec"].endswith("tailor --open %f")
    assert (data / "icons" / "hicolor" / "scalable" / "apps" / "tailor.svg").exists()
    assert run(*script, "--uninstall").returncode == 0
    left = {str(p.relative_to(home)) for p in home.rglob("*") if p.is_file() or p.is_symlink()}
    assert {name for name in left if "tailor" in name} == {"mine.tailor"}


def test_the_manual_page_names_every_command() -> None:
    page = (ROOT / "docs" / "tailor.1").read_text().replace("\\-", "-")
    (commands,) = [a for a in _parser()._actions if isinstance(a, argparse._SubParsersAction)]
    for name in commands.choices:
        assert f"\n.B {name}\n" in page
