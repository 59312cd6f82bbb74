"""A wired app as an app for the desktop: a Python package that runs with the toolkit alone."""

from __future__ import annotations

import json
import keyword
import re
import sys
from collections.abc import Iterable
from importlib import resources
from pathlib import Path
from typing import Any, Final

from msgspec.structs import replace

from cadena import __version__
from cadena.deliver.beside import Files, pictures_of, record_files, records_as_json
from cadena.deliver.cannot import cannot_be_a_desktop_app
from cadena.deliver.contract.names import PYTHON as PYTHON_WORDS
from cadena.deliver.contract.names import each_its_own, snake_name
from cadena.deliver.icons import outlines
from cadena.deliver.kit_modules import PACKAGES, kit_modules, packages, taken_as
from cadena.deliver.python_text import INDENT, WIDTH, python_text, types_in
from cadena.engine.wired import WiredApp
from cadena.model.find import slug
from cadena.model.source import Field, Source

PYTHON: Final = ">=3.11"


LOOK: Final = '''\
"""How the app looks where the system does not say: yours to change."""

# By colour of what stands out: ground and ink in light, and in dark.
grounds = {
    "good": ("#D6EBE4", "#1F6558", "#1E3B34", "#A9DCCB"),
    "warning": ("#F3E3C3", "#6B480E", "#42351A", "#F0CF8E"),
    "bad": ("#F6DAD3", "#8F2F1D", "#4A241C", "#F4B5A6"),
    "quiet": ("#E4E2DC", "#4A5458", "#33393C", "#C4CACC"),
}

# A style sheet of Qt, for all of it.
style = ""
'''


def package_of(app: WiredApp) -> str:
    """The name of the package: that of the app, as Python takes it, and nobody else's."""
    name = re.sub(r"\W+", "_", slug(app.app.name), flags=re.ASCII).strip("_") or "app"
    name = f"app_{name}" if name[0].isdigit() else name
    taken = {*sys.stdlib_module_names, *keyword.kwlist, *PACKAGES, *map(str.lower, PACKAGES)}
    return f"{name}_app" if name in taken else name


def desktop_app(app: WiredApp, folder: Path) -> Files:
    """The files of an app for the desktop.

    Args:
        folder: the project's, in which its pictures are.

    Raises:
        Problem: naming the first of what cannot be carried over.
    """
    for problem in cannot_be_a_desktop_app(app):
        raise problem
    name = package_of(app)
    texts = {
        "pyproject.toml": _pyproject(app, name),
        "README.md": _readme(app, name),
        f"{name}.desktop": _entry(app, name),
        f"{name}/__init__.py": f'"""{_line(app.app.name)}."""\n',
        f"{name}/__main__.py": _main(name),
        f"{name}/look.py": LOOK,
        f"{name}/py.typed": "",
        **{f"{name}/{path}": text for path, text in _modules(app, name).items()},
        **{f"{name}/kit/{path}": taken_as(name, text) for path, text in kit_modules().items()},
    }
    texts[f"{name}/kit/__init__.py"] = _kit_said()
    drawn = outlines(each.icon for each in app.app.sections if each.icon)
    icons = {"icons.json": json.dumps(drawn, indent=1).encode()} if drawn else {}
    beside = {**records_as_json(app), **pictures_of(app, folder), **icons, **_fixed()}
    return {
        **{path: text.encode() for path, text in texts.items()},
        **{f"{name}/{path}": content for path, content in beside.items()},
    }


def _fixed() -> Files:
    """What is the same for every app, and no module."""
    made = {"icon.svg": (resources.files("cadena.deliver") / "web" / "icon.svg").read_bytes()}
    for file in (resources.files("cadena") / "languages").iterdir():
        if file.name.endswith(".json"):
            made[f"kit/languages/{file.name}"] = file.read_bytes()
    return made


def _kit_said() -> str:
    return (
        '"""The rules by which an app runs, and what shows it: modules of Cadena as they are.\n\n'
        'Not meant to be edited: they come anew with each delivery.\n"""\n\n'
        f'__version__ = "{__version__}"\n'
    )


def _line(text: str) -> str:
    """A text that stays in its line, and in its quotes."""
    kept = "".join(each if each.isprintable() and each not in '"\\' else " " for each in text)
    return kept.strip()[:80] or "An app"


def _main(name: str) -> str:
    return (
        f'"""Runs the app: ``python -m {name}``."""\n\n'
        "import sys\nfrom pathlib import Path\n\n"
        f"from {name}.app import app\nfrom {name}.kit.native.start import run\n"
        f"from {name}.look import grounds, style\nfrom {name}.sources import files\n\n"
        f'sys.exit(run(app, files, Path(__file__).parent, "{name}", grounds, style))\n'
    )


# The app, part by part.


def _modules(app: WiredApp, name: str) -> dict[str, str]:
    whole = replace(
        app.app,
        sources=tuple(_source(app, each) for each in app.app.sources),
        windows=(),
        claims=(),
        aside=(),
    )
    screens = each_its_own(snake_name(each.id, PYTHON_WORDS) for each in app.app.screens)
    made = {
        "routes.py": _module(
            name,
            "What opens what: sections, and links from a trigger to a screen, carrying what.",
            {"sections": whole.sections, "links": whole.links},
        ),
        "windows.py": _module(
            name,
            "What the app makes of a window: the first arrangement that it matches.",
            {"arrangements": whole.arrangements, "platform": whole.platform},
        ),
        "sources.py": _module(
            name,
            "Where records come from, and how their fields are said.",
            {"sources": whole.sources, "values": whole.values, "files": record_files(app)},
        ),
        "screens/__init__.py": '"""The screens of the app, a module for each."""\n',
    }
    for file, screen in zip(screens, whole.screens, strict=True):
        kind = {"ListScreen": "a list", "DetailScreen": "a detail", "FormScreen": "a form"}
        said = screen.id if "{" in screen.title else screen.title
        what = f"{_line(said)}: {kind[type(screen).__name__]}."
        made[f"screens/{file}.py"] = _module(name, what, {"screen": screen})
    made["app.py"] = _app(app, name, screens)
    return made


def _module(name: str, said: str, values: dict[str, Any]) -> str:
    """A module that gives some values, each under its name."""
    types = set[type]().union(*map(types_in, values.values()))
    body = "\n".join(_assignment(each, value) for each, value in values.items())
    imports = _imports(name, types)
    return "\n".join(filter(None, (f'"""{said}"""\n', imports, body)))


def _assignment(name: str, value: Any) -> str:
    is_bare = value in ((), {})
    kind = ": dict[str, list[str]]" if name == "files" else ": tuple[()]" if is_bare else ""
    lead = f"{name}{kind} = "
    return f"{lead}{python_text(value, len(lead))}\n"


def _imports(name: str, types: Iterable[type]) -> str:
    """From which modules of the kit the types come, as a formatter would write it."""
    by_module: dict[str, list[str]] = {}
    for kind in types:
        module = kind.__module__.removeprefix("cadena.")
        by_module.setdefault(f"{name}.kit.{module}", []).append(kind.__name__)
    lines = []
    for module, names in sorted(by_module.items()):
        listed = sorted(names)
        line = f"from {module} import {', '.join(listed)}"
        if len(line) > WIDTH:
            inner = "".join(f"{INDENT}{each},\n" for each in listed)
            line = f"from {module} import (\n{inner})"
        lines.append(line)
    return "\n".join(lines) + "\n" if lines else ""


def _source(app: WiredApp, source: Source) -> Source:
    """A source as it is handed over: its records lie beside it, read and typed."""
    records = app.as_read.get(source.id)
    known = {each.name: each for each in source.fields}
    types = {} if records is None else records.types
    fields = tuple(
        replace(known.get(name, Field(name=name)), type=kind, written="", made_of=())
        for name, kind in types.items()
    )
    empty = Source(id="", key="")
    return replace(
        source,
        file="",
        at="",
        inside=None,
        csv=empty.csv,
        key_from=(),
        numbered=False,
        made_up=None,
        fields=fields,
        service=source.service if source.served == "service" else None,
    )


def _app(app: WiredApp, name: str, screens: list[str]) -> str:
    said = {"name": app.app.name, "locale": app.app.locale, "start": app.app.start}
    said["fallback"] = app.app.fallback
    listed = "".join(f"{INDENT * 2}{each}.screen,\n" for each in screens)
    known = "".join(f"{INDENT}{each},\n" for each in sorted(screens))
    lines = "".join(
        f"{INDENT}{each}={python_text(value)},\n" for each, value in said.items() if value
    )
    one = f"from {name}.screens import {', '.join(sorted(screens))}"
    imported = one if len(one) <= WIDTH else f"from {name}.screens import (\n{known})"
    return (
        '"""The app, whole: its screens, what opens what, its windows and its sources."""\n\n'
        f"from {name}.kit.model.app import App\n"
        f"from {name}.routes import links, sections\n"
        f"{imported}\n"
        f"from {name}.sources import sources, values\n"
        f"from {name}.windows import arrangements, platform\n\n"
        f"app = App(\n{lines}{INDENT}sections=sections,\n{INDENT}links=links,\n"
        f"{INDENT}screens=(\n{listed}{INDENT}),\n{INDENT}sources=sources,\n"
        f"{INDENT}values=values,\n{INDENT}arrangements=arrangements,\n"
        f"{INDENT}platform=platform,\n)\n"
    )


# What is around it.


def _pyproject(app: WiredApp, name: str) -> str:
    calls = any(each.served == "service" for each in app.app.sources)
    needs = "".join(f'    "{each}=={at}",\n' for each, at in packages(calls).items())
    said = json.dumps(_line(app.app.name), ensure_ascii=False)
    return (
        "[build-system]\n"
        'requires = ["setuptools>=68"]\nbuild-backend = "setuptools.build_meta"\n\n'
        f'[project]\nname = "{name.replace("_", "-")}"\nversion = "1.0.0"\n'
        f'description = {said}\nreadme = "README.md"\nrequires-python = "{PYTHON}"\n'
        f"dependencies = [\n{needs}]\n\n"
        f'[tool.setuptools.packages.find]\ninclude = ["{name}", "{name}.*"]\n\n'
        f'[tool.setuptools.package-data]\n"*" = ["*", "**/*"]\n\n'
        f'[tool.ruff]\nline-length = {WIDTH + 1}\nextend-exclude = ["{name}/kit"]\n\n'
        "[tool.mypy]\nstrict = true\n\n"
        f'[[tool.mypy.overrides]]\nmodule = "{name}.kit.*"\nignore_errors = true\n'
    )


def _readme(app: WiredApp, name: str) -> str:
    return (
        f"# {_line(app.app.name)}\n\nAn app for the desktop.\n\n"
        f"```\npip install .\npython -m {name}\n```\n\n"
        f"`python -m {name} /huts/mor` begins at an address. A second start brings the first to "
        "the front.\n\n"
        "| | |\n| --- | --- |\n"
        f"| `{name}/screens/` | what each screen shows |\n"
        f"| `{name}/routes.py` | what opens what, carrying what |\n"
        f"| `{name}/windows.py` | what becomes of a window of another size |\n"
        f"| `{name}/sources.py`, `{name}/records/` | the records |\n"
        f"| `{name}/look.py` | its colours, and a style sheet of the toolkit |\n"
        f"| `{name}/kit/` | the rules it runs by: not meant to be edited |\n\n"
        "Delivered again, what was changed by hand stays, joined with what is new. What the app "
        "keeps (where it was left, what was changed) lies in the data folder of the person, in "
        f"`{name}/state.json`.\n"
    )


def _entry(app: WiredApp, name: str) -> str:
    """A desktop entry (freedesktop.org, Desktop Entry Specification)."""
    return (
        "[Desktop Entry]\nType=Application\n"
        f"Name={_line(app.app.name)}\nExec=python3 -m {name} %u\nIcon={name}\n"
        "Categories=Utility;\nTerminal=false\n"
    )
