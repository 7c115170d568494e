"""For long: python -m tests.hostile MINUTES. Kills, mutated files, settings a little off and put right, starts and
monkeys by turns, other seeds each."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

from tests.hostile import traced
from tests.hostile.kills import DEEDS

KILLS, FILES, APART, SETTLED, RIGHTED, MONKEY = 500, 5000, 60, 300, 50, 420  # a round


def main(minutes: float) -> int:
    end, seed, failed = time.monotonic() + 60 * minutes, 0, 0
    while time.monotonic() < end:
        seed += 1
        with tempfile.TemporaryDirectory() as folder:
            for deed in DEEDS:
                (own := Path(folder) / deed).mkdir()
                words = [sys.executable, "-m", "tests.hostile.kills", deed, str(KILLS), str(seed), str(own)]
                failed += subprocess.run(words, check=False).returncode != 0
            for where, count in (("here", FILES), ("apart", APART)):
                (own := Path(folder) / where).mkdir()
                (watched := Path(folder) / f"{where} watched").mkdir()
                words = [sys.executable, "-m", "tests.hostile.fuzz", where, str(count), str(seed), str(own)]
                failed += subprocess.run(words, env=traced.environment(watched), check=False).returncode != 0
                if strays := traced.strays(watched, own, Path(__file__).parents[1]):
                    print("opened besides:", *strays)
                    failed += 1
            for name, jobs in (("anyhow", SETTLED), ("righted", RIGHTED)):
                words = [sys.executable, "-m", f"tests.hostile.{name}", str(jobs), str(seed)]
                failed += subprocess.run(words, check=False).returncode != 0
            words = [sys.executable, "-m", "tests.hostile.starts", str(Path(folder) / "starts")]
            failed += subprocess.run(words, check=False).returncode != 0
        left = max(min(MONKEY, end - time.monotonic()), 20)
        words = [sys.executable, "-m", "tests.hostile.monkey", f"{left:.0f}", str(seed)]
        failed += subprocess.run(words, check=False).returncode != 0
    print("nothing found" if not failed else f"{failed} failed")
    return int(failed > 0)


if __name__ == "__main__":
    raise SystemExit(main(float(sys.argv[1]) if len(sys.argv) > 1 else 20))
