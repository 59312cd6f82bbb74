"""A wired app as a web app: the files of a folder that any web server can serve."""

from __future__ import annotations

import base64
import hashlib
import html
import json
import re
from importlib import resources
from importlib.resources.abc import Traversable
from pathlib import Path
from typing import Any, Final
from urllib.parse import urlsplit

from cadena.deliver.beside import Files, pictures_of, record_files, records_as_json
from cadena.deliver.bundle import BEGINS, READABLE, SCRIPT, STYLE, STYLES, bundled
from cadena.deliver.cannot import cannot_be_carried
from cadena.deliver.delivery import standing
from cadena.deliver.described import described
from cadena.deliver.early_rows import early_rows
from cadena.deliver.icons import outlines
from cadena.deliver.literal import identifier, literal
from cadena.deliver.wishes import WebWishes
from cadena.engine.wired import WiredApp
from cadena.model.app_words import languages, words_in
from cadena.model.find import slug
from cadena.sources.pictures_beside import is_remote

FACE: Final = (".woff2", ".txt")
"""The files of the face that a web app is written in, and its licence."""
EARLY: Final = ("early.css", "early.js")
KIT: Final = "kit/"
LANGUAGES: Final = "languages/"
PLACE: Final = re.compile(r"\{([a-z-]+)\}")
MOST_HOSTS: Final = 20
LATER: Final = tuple(
    f"kit/{name}.js" for name in ("trace", "page/service", "page/hand-out", "page/moving")
)
"""Modules that not every app needs: they are brought when they are."""
TAKEN: Final = (
    "words",
    "app",
    "arrangements",
    "files",
    "icons",
    "platform",
    "routes",
    "sources",
    "values",
)
"""What ``app.js`` calls the other parts of the app."""


def web_app(app: WiredApp, folder: Path, wishes: WebWishes = WebWishes()) -> Files:
    """The files of a web app.

    Args:
        folder: the project's, in which its pictures are.
        wishes: how it is to be delivered. Of a bundled one the page names the bundle, which
            ``bundled`` makes of what stands in its folder.

    Raises:
        Problem: naming the first of what cannot be carried over; see ``cannot_be_carried``.
    """
    for problem in cannot_be_carried(app):
        raise problem
    whole = described(app)
    screens = _screens(whole)
    fixed = plain_files()
    texts = {
        **_pages(app, wishes, fixed),
        "app.webmanifest": _manifest(app),
        "app.js": _app(whole, screens),
        "routes.js": _routes(whole),
        "windows.js": _windows(whole),
        "sources.js": _sources(whole, app),
        "icons.js": _icons(app),
        **{f"{LANGUAGES}{each}.js": _language(each) for each in languages()},
        **{f"screens/{name}.js": _screen(const, screen) for name, const, screen in screens},
    }
    written = {name: text.encode() for name, text in texts.items()}
    return {**written, **records_as_json(app), **pictures_of(app, folder), **fixed}


def web_files(app: WiredApp, folder: Path, to: Path, wishes: WebWishes) -> Files:
    """The files of a web app as they are delivered into a folder: a bundle is made of what will
    stand there, by hand or not.

    Raises:
        Problem: as ``web_app`` and ``planned`` do, and where it cannot be bundled.
    """
    files = web_app(app, folder, wishes)
    return files | bundled(standing(files, to)) if wishes.bundled else files


def plain_files() -> Files:
    """What is the same for every app: the kit, the look to begin with, and what begins the app."""
    root = resources.files("cadena.deliver") / "web"
    made = {
        name: each.read_bytes()
        for name, each in _within(root, "")
        if name not in ("index.html", *EARLY)
    }
    fonts = _within(resources.files("cadena") / "fonts", "fonts/")
    return made | {name: each.read_bytes() for name, each in fonts if name.endswith(FACE)}


def _within(folder: Traversable, at: str) -> list[tuple[str, Traversable]]:
    found: list[tuple[str, Traversable]] = []
    for file in sorted(folder.iterdir(), key=lambda each: each.name):
        if file.is_dir():
            found += _within(file, f"{at}{file.name}/")
        else:
            found.append((f"{at}{file.name}", file))
    return found


Screens = list[tuple[str, str, dict[str, Any]]]
"""For each screen the name of its file, that of its constant, and what it is."""


def _screens(whole: dict[str, Any]) -> Screens:
    names: set[str] = set()
    consts = {*TAKEN}
    made: Screens = []
    for screen in whole["screens"]:
        stem = "".join(letter for letter in slug(screen["id"]) if letter.isascii()).strip("-")
        name, number = stem or "screen", 2
        while name in names:
            name, number = f"{stem or 'screen'}-{number}", number + 1
        names.add(name)
        made.append((name, identifier(screen["id"], consts), screen))
    return made


def _screen(const: str, screen: dict[str, Any]) -> str:
    kinds = {"list": "a list", "detail": "a detail", "form": "a form"}
    title = screen["id"] if "{" in screen["title"] else screen["title"]
    return (
        f"// {_comment(title)}: {kinds[screen['kind']]}.\n\n"
        f"export const {const} = {literal(screen)};\n"
    )


def _comment(text: str) -> str:
    """A text that stays in the one line of its comment."""
    return "".join(letter if letter.isprintable() else " " for letter in text)[:80].replace(
        "</", "< /"
    )


def _app(whole: dict[str, Any], screens: Screens) -> str:
    imports = "".join(
        f"import {{ {const} }} from './screens/{name}.js';\n" for name, const, _ in screens
    )
    said = {name: whole[name] for name in ("name", "locale") if name in whole}
    rest = "".join(f"  {name}: {literal(value, 2)},\n" for name, value in said.items())
    listed = ", ".join(const for _, const, _ in screens)
    body = f"[{listed}]"
    if len(body) > 80:
        body = "[\n" + "".join(f"    {const},\n" for _, const, _ in screens) + "  ]"
    return (
        "// The app, whole: its screens, what opens what, its windows and its sources.\n\n"
        f"{imports}"
        "import { icons } from './icons.js';\n"
        f"import {{ words }} from './{LANGUAGES}{whole['words']['language']}.js';\n"
        "import { routes } from './routes.js';\n"
        "import { files, sources, values } from './sources.js';\n"
        "import { arrangements, platform } from './windows.js';\n\n"
        "export const app = {\n"
        f"{rest}  ...routes,\n  screens: {body},\n  sources,\n  values,\n  arrangements,\n"
        "  platform,\n  icons,\n  words,\n};\n\n"
        "export { files };\n"
    )


def _routes(whole: dict[str, Any]) -> str:
    routes = {
        name: whole[name] for name in ("start", "fallback", "sections", "links") if name in whole
    }
    return (
        "// What opens what, carrying what: sections, and links from a trigger to a screen.\n\n"
        f"export const routes = {literal(routes)};\n"
    )


def _windows(whole: dict[str, Any]) -> str:
    return (
        "// What the app makes of a window: the first arrangement that it matches.\n\n"
        f"export const arrangements = {literal(whole.get('arrangements', []))};\n\n"
        "// What the system under the app does.\n"
        f"export const platform = {literal(whole.get('platform', {}))};\n"
    )


def _icons(app: WiredApp) -> str:
    drawn = outlines(each.icon for each in app.app.sections if each.icon)
    return (
        "// Icons of sections (Phosphor Icons, MIT), as paths in a box of 1000 by 1000.\n\n"
        f"export const icons = {literal(drawn)};\n"
    )


def _manifest(app: WiredApp) -> str:
    """What a system asks that installs the app (W3C, Web Application Manifest)."""
    said = {
        "name": app.app.name,
        "short_name": app.app.name,
        "lang": (app.app.locale or "en").replace("_", "-"),
        "start_url": ".",
        "display": "standalone",
        "background_color": "#e9e6df",
        "theme_color": "#2b3e47",
        "icons": [
            {"src": "icon.svg", "sizes": "any", "type": "image/svg+xml"},
            *(
                {"src": f"icon-{size}.png", "sizes": f"{size}x{size}", "type": "image/png"}
                for size in (192, 512)
            ),
        ],
    }
    return json.dumps(said, ensure_ascii=False, indent=2) + "\n"


def _language(language: str) -> str:
    said = {"language": language, "said": words_in(language)}
    return (
        "// What the app says by itself, by the text in English; where it depends on a number, by\n"
        "// the plural categories of CLDR. Another language is a file more, named in app.js.\n\n"
        f"export const words = {literal(said)};\n"
    )


def _sources(whole: dict[str, Any], app: WiredApp) -> str:
    files = record_files(app)
    return (
        "// Where records come from, and how their fields are said.\n\n"
        f"export const sources = {literal(whole.get('sources', []))};\n\n"
        "// Values that the whole app shares.\n"
        f"export const values = {literal(whole.get('values', []))};\n\n"
        "// The records that lie beside the app.\n"
        f"export const files = {literal(files)};\n"
    )


def _first_title(app: WiredApp) -> str:
    """What the first screen says before anything has run."""
    section = app.sections.get(app.app.start) or next(iter(app.sections.values()))
    title = app.screens[section.root].title
    return section.title if "{" in title else title


def picture_hosts(app: WiredApp) -> list[str]:
    """Where pictures come from that lie elsewhere: hosts; of a service, or of very many, any."""
    found: set[str] = set()
    for name, records in app.as_read.items():
        fields = [each for each, kind in records.types.items() if kind == "picture"]
        if fields and app.sources[name].served == "service":
            return ["https:"]
        for field in fields:
            parts = (urlsplit(each) for each in records.values_of(field) if is_remote(each))
            found |= {f"{each.scheme.lower()}://{each.netloc}" for each in parts if each.netloc}
    return sorted(found) if len(found) <= MOST_HOSTS else ["https:"]


def _framed(app: WiredApp) -> list[str]:
    """Where what is shown in frames may come from: the hosts that the app names."""
    hosts = (each.lower() for each in app.app.platform.frames_from)
    return [f"{scheme}://{each}" for each in hosts for scheme in ("https", "http")]


def _early(name: str) -> str:
    """What stands in the page itself, so that its first rows are there with it."""
    text = (resources.files("cadena.deliver") / "web" / name).read_text()
    return text.split("\n\n")[-1] if name.endswith(".js") else text


def _allowed(text: str) -> str:
    """What allows a page just this text (W3C, Content Security Policy 3, hashes)."""
    told = base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()
    return f"'sha256-{told}'"


def _pages(app: WiredApp, wishes: WebWishes, fixed: Files) -> dict[str, str]:
    """The page, and beside a bundled one that which takes the modules as they are."""
    shell = (resources.files("cadena.deliver") / "web" / "index.html").read_text()
    said = _shared(app, wishes)
    records = [
        f'<link rel="preload" as="fetch" crossorigin href="{name}">'
        for some in record_files(app).values()
        for name in some
    ]
    modules = [
        f'<link rel="modulepreload" href="{name}">'
        for name in fixed
        if name.startswith(KIT) and name.endswith(".js") and name not in LATER
    ]

    def page(script: str, styles: tuple[str, ...], preloads: list[str]) -> str:
        own = {
            "styles": "\n    ".join(f'<link rel="stylesheet" href="{each}">' for each in styles),
            "script": script,
            "preloads": "\n    ".join(preloads),
        }
        # All at once: what records say may look like a place to fill.
        return PLACE.sub(lambda found: {**said, **own}[found[1]], shell)

    readable = page(BEGINS, STYLES, [*records, *modules])
    if not wishes.bundled:
        return {"index.html": readable}
    return {"index.html": page(SCRIPT, (STYLE,), records), READABLE: readable}


def _shared(app: WiredApp, wishes: WebWishes) -> dict[str, str]:
    """What every page of an app says."""
    services = {
        f"{address.scheme}://{address.netloc}"
        for source in app.app.sources
        if source.served == "service" and source.service is not None
        for address in map(urlsplit, source.service.addresses())
        if address.netloc
    }
    is_path = wishes.addresses == "path"
    early = {name: _early(name) for name in EARLY}
    return {
        "name": html.escape(app.app.name, quote=True),
        "title": html.escape(_first_title(app), quote=False),
        "lang": html.escape((app.app.locale or "en").replace("_", "-"), quote=True),
        "addresses": f' data-under="{wishes.under}"' if is_path else "",
        "base": f'\n    <base href="{wishes.under}">' if is_path else "",
        "base-uri": "'self'" if is_path else "'none'",
        "pictures": html.escape(" ".join(["'self'", *picture_hosts(app)]), quote=False),
        "frames": html.escape(" ".join(_framed(app)) or "'none'", quote=False),
        "services": html.escape(" ".join(["'self'", *sorted(services)]), quote=False),
        "rows": early_rows(app),
        "early-css": early["early.css"],
        "early-js": early["early.js"],
        "style-hash": _allowed(early["early.css"]),
        "script-hash": _allowed(early["early.js"]),
    }
