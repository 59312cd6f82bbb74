"""Damaged input of every kind, as much as is asked for, in processes.

    python tools/fuzz.py --count 5000 --seed 1 [--only csv] [--processes 2]

Exit 1 where anything escapes or takes too long; what escaped is named by kind and seed.
"""

from __future__ import annotations

import argparse
import logging
import multiprocessing
import os
import signal
import sys
import time
import traceback
from collections import Counter
from pathlib import Path
from typing import Any

os.environ["QT_QPA_PLATFORM"] = "offscreen"
sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))
logging.disable(logging.CRITICAL)

from fuzzing import KINDS, tried

LONGEST = 30
FEW = 5


def late(*_: Any) -> None:
    raise TimeoutError(f"it took over {LONGEST} s")


def one(job: tuple[str, int]) -> tuple[str, int, str, str, float]:
    """One example: its kind and seed, what it was refused with, what escaped, and its seconds."""
    kind, seed = job
    began = time.perf_counter()
    signal.signal(signal.SIGALRM, late)
    signal.alarm(LONGEST)
    said, escaped = "", ""
    try:
        said = tried(kind, seed)
    except BaseException:
        escaped = traceback.format_exc(limit=-6)
    finally:
        signal.alarm(0)
    return kind, seed, said, escaped, time.perf_counter() - began


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=1000)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--only", choices=list(KINDS), action="append")
    parser.add_argument("--processes", type=int, default=2)
    asked = parser.parse_args()
    kinds = asked.only or list(KINDS)
    jobs = [(kind, asked.seed + number) for kind in kinds for number in range(asked.count)]
    done: Counter[str] = Counter()
    refused: Counter[str] = Counter()
    broke: list[tuple[str, int]] = []
    longest: dict[str, float] = {}
    with multiprocessing.Pool(asked.processes) as pool:
        for kind, seed, said, escaped, seconds in pool.imap_unordered(one, jobs, 16):
            done[kind] += 1
            refused[kind] += bool(said)
            longest[kind] = max(seconds, longest.get(kind, 0.0))
            if escaped:
                broke.append((kind, seed))
                if len(broke) <= FEW:
                    print(f"--- {kind}, seed {seed}\n{escaped}", flush=True)
    for kind in kinds:
        escapes = sum(each == kind for each, _ in broke)
        print(
            f"{kind}: {done[kind]} tried, {refused[kind]} refused with a message, "
            f"{escapes} escaped, the longest took {longest.get(kind, 0):.2f} s"
        )
    if broke:
        print("seeds:", broke[:40])
    return 1 if broke else 0


if __name__ == "__main__":
    sys.exit(main())
