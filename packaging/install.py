"""Install Tailor for one user, or take it away again: python3 packaging/install.py [--uninstall].

It goes into an environment of its own under the user's data folder, with a menu entry, an icon, the file type of jobs,
and a manual page. Jobs, the shop, state and settings are left alone.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

SOURCE = Path(__file__).resolve().parents[1]
NAME = "tailor"
TYPE = "application/x-tailor-job"

ENTRY = """[Desktop Entry]
Type=Application
Name=Tailor
GenericName=Fitted leather patterns
Comment=From a measured object to flat leather that fits
Exec={run} --open %f
Icon={name}
Terminal=false
Categories=Graphics;
MimeType={type};
"""
KIND = """<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="{type}">
    <comment>Tailor job</comment>
    <sub-class-of type="application/json"/>
    <glob pattern="*.tailor"/>
    <icon name="{name}"/>
  </mime-type>
</mime-info>
"""


def data() -> Path:
    """The user's data folder."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def places() -> dict[str, Path]:
    """Where each thing goes that is installed."""
    return {
        "environment": data() / "tailor-program",
        "command": Path.home() / ".local" / "bin" / NAME,
        "entry": data() / "applications" / f"{NAME}.desktop",
        "kind": data() / "mime" / "packages" / f"{NAME}.xml",
        "icon": data() / "icons" / "hicolor" / "scalable" / "apps" / f"{NAME}.svg",
        "manual": data() / "man" / "man1" / f"{NAME}.1",
    }


def install(pip: list[str]) -> None:
    """Build a wheel, put it into an environment of its own, and make the desktop know it."""
    at = places()
    shutil.rmtree(at["environment"], ignore_errors=True)
    subprocess.run([sys.executable, "-m", "venv", str(at["environment"])], check=True)
    python = str(at["environment"] / "bin" / "python")
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / "source"  # built beside: what an earlier build left lying would come into the wheel
        shutil.copytree(SOURCE / "src", source / "src", ignore=shutil.ignore_patterns("*.egg-info", "__pycache__"))
        for file in ("pyproject.toml", "README.md"):
            shutil.copyfile(SOURCE / file, source / file)
        wheel = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "-w", folder, str(source)]
        subprocess.run([*wheel, *[word for word in pip if word == "--no-build-isolation"]], check=True)
        (built,) = Path(folder).glob("*.whl")
        put = [python, "-m", "pip", "install", "-q", "--disable-pip-version-check"]
        locked = ["-c", str(SOURCE / "requirements.lock")]
        with_ = [word for word in pip if word != "--no-build-isolation"]
        subprocess.run([*put, *locked, *with_, str(built)], check=True)
    for place in at.values():
        place.parent.mkdir(parents=True, exist_ok=True)
    run = at["environment"] / "bin" / NAME
    if at["command"].exists() and not at["command"].is_symlink():
        raise SystemExit(f"{at['command']} is there already and is not Tailor's; move it, and install again.")
    at["command"].unlink(missing_ok=True)
    at["command"].symlink_to(run)
    at["entry"].write_text(ENTRY.format(run=run, name=NAME, type=TYPE))
    at["kind"].write_text(KIND.format(type=TYPE, name=NAME))
    shutil.copyfile(SOURCE / "src" / "tailor" / "desk" / "theme" / "icons" / "tailor.svg", at["icon"])
    shutil.copyfile(SOURCE / "docs" / "tailor.1", at["manual"])
    _tell_desktop()
    print(f"Tailor is installed. Start it from the menu, or as {at['command']}.")
    if str(at["command"].parent) not in os.environ.get("PATH", "").split(os.pathsep):
        print(f"{at['command'].parent} is not on the path: add it there to start Tailor by its name.")


def uninstall() -> None:
    """Take away what install put there, and nothing else."""
    at = places()
    if at["command"].is_symlink() and at["environment"] in Path(os.readlink(at["command"])).parents:
        at["command"].unlink()
    shutil.rmtree(at["environment"], ignore_errors=True)
    for name in ("entry", "kind", "icon", "manual"):
        at[name].unlink(missing_ok=True)
    _tell_desktop()
    print("Tailor is taken away. Jobs, the shop and settings are where they were.")


def _tell_desktop() -> None:
    """Have the desktop read its file types and menu anew, where it has the commands for it."""
    for command, folder in (("update-mime-database", data() / "mime"), ("update-desktop-database",
                            data() / "applications")):  # fmt: skip
        if folder.is_dir() and shutil.which(command):
            with contextlib.suppress(OSError):
                subprocess.run([command, str(folder)], check=False, capture_output=True)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--uninstall", action="store_true", help="take Tailor away again")
    parser.add_argument("--pip", action="append", default=[], metavar="OPTION", help="an option for pip, as --no-deps")
    asked = parser.parse_args()
    if asked.uninstall:
        uninstall()
    else:
        install(asked.pip)


if __name__ == "__main__":
    main()
