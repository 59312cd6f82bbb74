"""What people call things that are called otherwise here: so that asking finds them all the same.

One table; each word or phrase of other people's, in small letters, and words of ours any of which
says the same.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

CALLED: Final[dict[str, tuple[str, ...]]] = {
    "api": ("service",),
    "argument": ("parameter", "carry", "fills"),
    "attribute": ("field",),
    "back button": ("back",),
    "back stack": ("bench: back", "back"),
    "backend": ("service",),
    "background": ("sleep",),
    "bookmark": ("mark",),
    "breakpoint": ("stage fit", "window"),
    "bug": ("finding",),
    "cache": ("keep", "stored"),
    "cold start": ("relaunch",),
    "column": ("field",),
    "compile": ("stage deliver",),
    "crash": ("kill",),
    "create": ("+", "new", "make"),
    "csv": ("csv", "records from files"),
    "dark": ("light or dark",),
    "dark mode": ("light or dark",),
    "dataset": ("source", "records"),
    "deep link": ("address",),
    "delete": ("remove",),
    "destination": ("screen", "section"),
    "device": ("window",),
    "dialog": ("modal", "popover"),
    "drawer": ("list over", "section bar"),
    "edit": ("form", "change", "another title"),
    "emulator": ("bench",),
    "error": ("finding",),
    "export": ("stage deliver",),
    "fake": ("made up", "stand-in"),
    "favorite": ("mark",),
    "favourite": ("mark",),
    "filter": ("condition", "kept"),
    "fold": ("window", "folded"),
    "form": ("form",),
    "forward button": ("forward",),
    "foldable": ("window", "folded"),
    "generate": ("stage deliver", "made up"),
    "hamburger": ("section bar", "button"),
    "history": ("undo", "walk"),
    "hotkey": ("show the keys",),
    "import": ("records from files", "project of data files"),
    "inspect": ("stage gather", "finding"),
    "kill": ("kill",),
    "landscape": ("turn",),
    "layout": ("laid out", "lay out", "layout", "arrangement"),
    "lint": ("finding",),
    "list": ("list",),
    "master": ("list",),
    "master detail": ("list", "beside"),
    "memory": ("keep", "saved"),
    "mixed list": ("another screen for some rows", "rows of a kind"),
    "mock": ("made up", "stand-in"),
    "model": ("source",),
    "navigate": ("link", "go to", "opens"),
    "navigation": ("link", "section"),
    "orientation": ("turn",),
    "page": ("screen", "page"),
    "param": ("parameter",),
    "persist": ("stored", "keep", "lives"),
    "phone": ("window",),
    "popup": ("popover", "modal"),
    "portrait": ("turn",),
    "preview": ("bench",),
    "process death": ("kill",),
    "property": ("field",),
    "props": ("parameter",),
    "publish": ("stage deliver",),
    "query": ("search", "condition"),
    "redux": ("app-wide",),
    "refresh": ("start anew", "relaunch"),
    "relation": ("refers", "reference"),
    "reload": ("relaunch", "start anew"),
    "remember": ("keep", "saved", "stored", "lives"),
    "reset": ("start anew",),
    "responsive": ("stage fit",),
    "rest": ("service",),
    "restart": ("relaunch", "start anew"),
    "restore": ("restore",),
    "rotate": ("turn",),
    "route": ("address",),
    "row type": ("another screen for some rows", "rows of a kind"),
    "run": ("walk", "bench", "prove"),
    "screen": ("screen", "list", "detail", "form"),
    "schema": ("stage gather", "field"),
    "settings": ("light or dark", "motion"),
    "sheet": ("popover", "modal"),
    "shortcut": ("show the keys",),
    "sidebar": ("section bar", "rail"),
    "size class": ("stage fit", "window"),
    "sort": ("order", "sort"),
    "resizable": ("panes",),
    "split": ("split", "beside"),
    "split view": ("beside", "panes"),
    "splitter": ("panes",),
    "stack": ("back",),
    "star": ("mark",),
    "state": ("stage keep",),
    "tab": ("section",),
    "table": ("source",),
    "tablet": ("window",),
    "tabs": ("section",),
    "template": ("address",),
    "test": ("walk", "stage prove", "stage deliver"),
    "theme": ("light or dark",),
    "url": ("address",),
    "variable": ("app-wide", "value"),
    "verify": ("stage prove",),
    "view": ("screen",),
    "view type": ("another screen for some rows", "rows of a kind"),
}


def phrases(text: str) -> Iterator[tuple[str, ...]]:
    """What is asked, word by word or phrase by phrase: each with all that says the same.

    >>> list(phrases("rotate huts"))
    [('rotate', 'turn'), ('huts',)]
    >>> list(phrases("back stack"))
    [('back stack', 'bench: back', 'back')]
    """
    words = text.lower().split()
    while words:
        two = " ".join(words[:2])
        taken = 2 if len(words) > 1 and two in CALLED else 1
        said = " ".join(words[:taken])
        yield (said, *CALLED.get(said, ()))
        words = words[taken:]
