"""Make the fonts that come with Cadena anew, from those of the open face Inter.

python tools/make_fonts.py FOLDER_OF_INTER   (needs brotli beside fontTools, for WOFF2)

Kept are the scripts that the interface is written in, their signs, and the face's own figures.
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Final

from fontTools.subset import main as subset

TO: Final = Path(__file__).resolve().parent.parent / "src" / "cadena" / "fonts"
WEIGHTS: Final = ("Regular", "Medium", "SemiBold", "Bold")
ON_THE_WEB: Final = ("Regular", "Bold")
RANGES: Final = (
    *("0000-024F", "0259", "02B0-02FF", "0300-036F", "0370-03FF", "0400-052F", "1E00-1EFF"),
    *("2000-206F", "2070-209F", "20A0-20CF", "2100-214F", "2150-218F", "2190-21FF"),
    *("2200-22FF", "2300-23FF", "2460-24FF", "25A0-25FF", "2600-26FF", "2700-27BF"),
)
LATIN: Final = ("0000-017F", "2000-206F", "20A0-20CF", "2122", "2190-2193", "2212", "2713", "2715")


def make(folder: Path) -> None:
    """Write each weight as OpenType for the window, and two of them as WOFF2 for the web."""
    TO.mkdir(exist_ok=True)
    for weight in WEIGHTS:
        font = folder / f"Inter-{weight}.otf"
        _subset(font, TO / f"Inter-{weight}.otf", RANGES)
        if weight in ON_THE_WEB:
            _subset(font, TO / f"Inter-{weight}.woff2", LATIN, "--flavor=woff2")


def _subset(font: Path, to: Path, ranges: tuple[str, ...], *more: str) -> None:
    unicodes = ",".join(ranges)
    features = "--layout-features=kern,liga,calt,tnum,mark,mkmk,locl,ccmp"
    subset([str(font), f"--unicodes={unicodes}", features, f"--output-file={to}", *more])


if __name__ == "__main__":
    make(Path(sys.argv[1]))
