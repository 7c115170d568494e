"""What a process and those it begins open, told by an audit hook: nothing that a file from elsewhere names."""

from __future__ import annotations

import os
import sys
from collections.abc import Mapping
from pathlib import Path

import tailor

LOG = "TAILOR_TRACED"
HOOK = """
import os, sys
log = os.open(os.environ["TAILOR_TRACED"], os.O_WRONLY | os.O_APPEND)
def watch(event, args):
    named = event in ("os.rename", "os.remove", "os.mkdir", "os.link")
    if named or event == "open" and isinstance(args[0], (str, bytes)):
        os.write(log, os.path.realpath(args[0]).encode(errors="surrogateescape") + b"\\n")
    elif event in ("socket.connect", "subprocess.Popen", "os.system"):
        os.write(log, f"{event} {args[0]}".encode() + b"\\n")
sys.addaudithook(watch)
"""
PYTHON = sys.prefix, sys.base_prefix, "/usr/", "/lib", "/etc/ld.so", "/proc/", "/sys/", "/dev/null", "/dev/urandom"
OWN = str(Path(__file__).parent), str(Path(tailor.__file__).parent)
RUN = f"subprocess.Popen {sys.executable}"


def environment(folder: Path) -> Mapping[str, str]:
    """What a process must find round itself to be traced, with the hook laid in a folder."""
    hook, log = folder / "hook", folder / "opened"
    hook.mkdir()
    (hook / "sitecustomize.py").write_text(HOOK)
    log.touch()
    path = os.pathsep.join(filter(None, (str(hook), os.environ.get("PYTHONPATH"))))
    return {**os.environ, "PYTHONPATH": path, LOG: str(log)}


def strays(folder: Path, *allowed: Path) -> list[str]:
    """What was opened or run that is neither Tailor's nor Python's own, nor within the folders allowed."""
    own = (*PYTHON, *OWN, str(folder / "hook"), *(os.path.realpath(path) for path in allowed))
    opened = set((folder / "opened").read_text(errors="surrogateescape").splitlines())
    assert any("tailor" in path for path in opened), "nothing was traced"
    return sorted(path for path in opened if not path.startswith(own) and path != RUN)
