"""A browser, spoken to by W3C WebDriver over HTTP: started from the system's own, never fetched."""

from __future__ import annotations

import base64
import contextlib
import json
import os
import shutil
import socket
import subprocess
import time
from collections.abc import Iterator, Mapping
from importlib import resources
from pathlib import Path
from typing import Any, Final

import httpx

from cadena.model.problem import Problem

BROWSERS: Final = ("chromium", "chromium-browser", "google-chrome")
DRIVERS: Final = ("chromedriver", "chromium.chromedriver")
NAMED: Final = ("CADENA_BROWSER", "CADENA_DRIVER")
"""What of the environment names another browser, and its driver."""
WATCHED: Final = """
trap '' TERM
("$@"; kill -KILL 0) & cat > /dev/null
kill -TERM 0
for turn in 1 2 3 4 5; do rm -rf -- "$0" && test ! -e "$0" && break; sleep 0.2; done
kill -KILL 0
"""
"""Runs a driver until its input ends: with what began it, however that ends, ends its browser, and
its profile goes."""
BEGINS_WITHIN: Final = 30.0
ANSWERS_WITHIN: Final = 25.0
"""Seconds for which a driver is waited for; longer than it waits for the page itself."""
ENDS_WITHIN: Final = 3.0
TIMEOUTS: Final = {"script": 10_000, "pageLoad": 20_000, "implicit": 0}
"""How long a page may take for a script, and to come, in ms (W3C WebDriver, 9)."""
ELEMENT: Final = "element-6066-11e4-a52e-4f735466cecf"
"""The name under which an element is referred to (W3C WebDriver, 12.2)."""
QUIET: Final = (
    "--headless=new",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-smooth-scrolling",
    "--hide-scrollbars",
    "--force-prefers-reduced-motion",
)
"""A browser that calls nobody, and in which nothing moves by itself."""
KEYS: Final = {
    "up": "\ue013",
    "down": "\ue015",
    "left": "\ue012",
    "right": "\ue014",
    "home": "\ue011",
    "end": "\ue010",
    "page up": "\ue00e",
    "page down": "\ue00f",
    "enter": "\ue007",
    "control": "\ue009",
    "shift": "\ue008",
    "space": " ",
    "delete": "\ue017",
}


def script(name: str) -> str:
    """A script that runs in the page."""
    return (resources.files("cadena.deliver.drive") / f"{name}.js").read_text()


INNER: Final = "return [innerWidth, innerHeight]"
DRAWN: Final = """
const done = arguments[arguments.length - 1];
requestAnimationFrame(() => requestAnimationFrame(() => done(null)));
"""
FREE: Final = """
const [element] = arguments;
const { left, top, width, height } = element.getBoundingClientRect();
const places = [0.5, 0.25, 0.1, 0.75, 0.9].map((part) => [left + width / 2, top + height * part]);
return places.find(([x, y]) => element.contains(document.elementFromPoint(x, y))) ?? places[0];
"""
OPTION: Final = "option"
MIDDLE: Final = """
const [element] = arguments;
if (element instanceof HTMLOptionElement) return "option";
const within = (area, other) => ({
  left: Math.max(area.left, other.left),
  top: Math.max(area.top, other.top),
  right: Math.min(area.right, other.right),
  bottom: Math.min(area.bottom, other.bottom),
});
const middle = ({ left, top, right, bottom }) => [(left + right) / 2, (top + bottom) / 2];
const isThere = ([x, y]) => element.contains(document.elementFromPoint(x, y));
const places = () => {
  const all = { left: 0, top: 0, right: innerWidth, bottom: innerHeight };
  const inWindow = within(element.getBoundingClientRect(), all);
  let inScroller = inWindow;
  for (let around = element.parentElement; around !== null; around = around.parentElement) {
    if (getComputedStyle(around).overflow !== "visible") {
      inScroller = within(inScroller, around.getBoundingClientRect());
    }
  }
  const { left, top, right, bottom } = inScroller;
  return right > left && bottom > top ? [middle(inWindow), middle(inScroller)] : [];
};
if (places().length === 0) {
  element.scrollIntoView({ behavior: "instant", block: "center", inline: "nearest" });
}
return places().find(isThere) ?? null;
"""
"""Where an element is pressed, by its middle; none where something lies over it. An option has no
place of its own."""


class Gone(Exception):
    """An element is not there, or cannot be pressed."""


def found() -> tuple[Path, Path]:
    """The browser and its driver.

    Raises:
        Problem: saying how to have them, or how to name others.
    """
    paths = []
    for variable, names in zip(NAMED, (BROWSERS, DRIVERS), strict=True):
        named = os.environ.get(variable)
        path = named or next((at for name in names if (at := shutil.which(name))), None)
        if path is None or not Path(path).exists():
            raise Problem(
                named or "the browser",
                "",
                f"{named or names[0]} is not there",
                f"Debian's packages chromium and chromium-driver, or {variable} naming another",
            )
        paths.append(Path(path))
    return paths[0], paths[1]


@contextlib.contextmanager
def browser(profile: Path, tells: bool = False) -> Iterator[Browser]:
    """A browser of its own, with nothing kept but in the folder of its profile.

    Args:
        tells: whether it is to tell what goes over the network; only Chromium can.

    Raises:
        Problem: where there is none, or it does not begin.
    """
    binary, driver = found()
    port = _free_port()
    process = subprocess.Popen(
        ["/bin/sh", "-c", WATCHED, str(profile), driver, f"--port={port}"],
        stdin=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        start_new_session=True,
    )
    try:
        with httpx.Client(
            base_url=f"http://127.0.0.1:{port}", timeout=ANSWERS_WITHIN, trust_env=False
        ) as client:
            _await_ready(client, process, driver)
            made = Browser(client)
            made.begin(_capabilities(binary, driver, profile, tells))
            try:
                yield made
            finally:
                made.end()
    finally:
        process.communicate()


def _capabilities(binary: Path, driver: Path, profile: Path, tells: bool) -> dict[str, Any]:
    """What is asked of a browser: of Chromium, or of one of WebKit where its driver is named."""
    if "webkit" in driver.name.lower():
        if tells:
            said = "it does not tell what it asks of services"
            raise Problem(driver.name, "", said, "Chromium, or no writing")
        return {"webkitgtk:browserOptions": {"binary": str(binary), "args": ["--automation"]}}
    root = ("--no-sandbox",) if os.geteuid() == 0 else ()
    arguments = [*QUIET, *root, f"--user-data-dir={profile}"]
    options: dict[str, Any] = {"binary": str(binary), "args": arguments}
    logs = {"browser": "SEVERE"}
    if tells:
        options["perfLoggingPrefs"] = {"enableNetwork": True, "enablePage": False}
        logs["performance"] = "ALL"
    return {
        "browserName": "chrome",
        "goog:chromeOptions": options,
        "goog:loggingPrefs": logs,
    }


def _is_of_app(message: str, folder: str) -> bool:
    """Whether a request that failed was for a file of the app; browsers ask for an icon unasked."""
    return message.startswith(folder) and not message.startswith(f"{folder}/favicon.ico")


def _free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port: int = found.getsockname()[1]
        return port


def _await_ready(client: httpx.Client, process: subprocess.Popen[bytes], driver: Path) -> None:
    """Wait until a driver answers.

    Raises:
        Problem: where it does not.
    """
    until = time.monotonic() + BEGINS_WITHIN
    while process.poll() is None and time.monotonic() < until:
        with contextlib.suppress(httpx.HTTPError):
            if client.get("/status").status_code == 200:
                return
        time.sleep(0.05)
    raise Problem(str(driver), "", "it did not begin", "a driver that fits the browser")


class Browser:
    """One session of a browser."""

    def __init__(self, client: httpx.Client) -> None:
        self.client = client
        self.session = ""
        self.is_chromium = True

    def begin(self, capabilities: Mapping[str, Any]) -> None:
        self.is_chromium = "goog:chromeOptions" in capabilities
        wanted = {**capabilities, "timeouts": TIMEOUTS}
        answer = self._call("POST", "/session", capabilities={"alwaysMatch": wanted})
        self.session = f"/session/{answer['sessionId']}"

    def end(self) -> None:
        # One that does not answer any more is ended with its driver.
        self.client.timeout = httpx.Timeout(ENDS_WITHIN)
        with contextlib.suppress(Problem, Gone):
            self._call("DELETE", self.session)

    def _call(self, method: str, path: str, **body: Any) -> Any:
        """One command.

        Raises:
            Gone: where what it is about is not there.
            Problem: for every other failure.
        """
        try:
            answer = self.client.request(method, path, json=body if method == "POST" else None)
            value = answer.json().get("value")
        except (httpx.HTTPError, ValueError) as error:
            raise Problem(
                "the browser", "", f"it does not answer ({error})", "it running"
            ) from None
        if answer.status_code == 200:
            return value
        kind, said = value.get("error", ""), value.get("message", "").split("\n")[0]
        if kind in (
            "no such element",
            "stale element reference",
            "element not interactable",
            "element click intercepted",
            "move target out of bounds",
        ):
            raise Gone(said)
        raise Problem("the browser", "", f"{kind}: {said}", "a page that can be driven")

    def _in_session(self, path: str, **body: Any) -> Any:
        return self._call("POST", f"{self.session}/{path}", **body)

    def go_to(self, address: str) -> None:
        self._in_session("url", url=address)

    def back(self) -> None:
        self._in_session("back")

    def forward(self) -> None:
        self._in_session("forward")

    def reload(self) -> None:
        self._in_session("refresh")

    def new_tab(self) -> None:
        """Another tab, and those before closed."""
        before = self._call("GET", f"{self.session}/window/handles")
        made = self._in_session("window/new", type="tab")["handle"]
        for tab in before:
            self.to_tab(tab)
            self._call("DELETE", f"{self.session}/window")
        self.to_tab(made)

    def tab(self) -> str:
        """The tab that is driven."""
        return str(self._call("GET", f"{self.session}/window"))

    def open_tab(self, address: str) -> str:
        """Another tab at an address, which is driven from now on; those before stay open."""
        made = str(self._in_session("window/new", type="tab")["handle"])
        self.to_tab(made)
        self.go_to(address)
        return made

    def to_tab(self, tab: str) -> None:
        """Drive another tab."""
        self._in_session("window", handle=tab)

    def run(self, script: str, *arguments: Any) -> Any:
        """What a script gives back that runs in the page."""
        return self._in_session("execute/sync", script=script, args=list(arguments))

    def size(self, width: float, height: float) -> None:
        """Give the page a window of this size, in CSS pixels.

        Raises:
            Problem: where the browser cannot be made so small, or so large.
        """
        if self.is_chromium:
            metrics = {"deviceScaleFactor": 1, "mobile": False}
            size = {"width": round(width), "height": round(height)}
            self.devtools("Emulation.setDeviceMetricsOverride", **size, **metrics)
        else:
            self._set_frame(round(width), round(height))
        self.drawn()

    def _set_frame(self, width: int, height: int) -> None:
        """Size the window so that what it leaves the page is so large."""
        wide, high = width, height
        for _ in range(3):
            self._in_session("window/rect", width=wide, height=high)
            until = time.monotonic() + 1
            while (now := self.run(INNER)) != [width, height] and time.monotonic() < until:
                time.sleep(0.02)
            if now == [width, height]:
                return
            wide, high = wide + width - now[0], high + height - now[1]
        said = f"its page is {now[0]} × {now[1]} px, and not {width} × {height}"
        raise Problem("the browser", "", said, "a window that it can be given")

    def faults(self, at: str) -> list[str]:
        """What has gone wrong in the page since this was last asked: errors that nothing caught,
        and files of the app at this address that did not come. Only Chromium tells.
        """
        if not self.is_chromium:
            return []
        entries = self._in_session("se/log", type="browser")
        own = at.partition("?")[0].rpartition("/")[0]
        return [
            str(entry.get("message", ""))
            for entry in (entries if isinstance(entries, list) else ())
            if entry.get("source") != "network" or _is_of_app(str(entry.get("message", "")), own)
        ]

    def devtools(self, command: str, **parameters: Any) -> Any:
        """What a command of Chromium's own protocol gives back."""
        return self._in_session("goog/cdp/execute", cmd=command, params=parameters)

    def network(self) -> Iterator[tuple[str, dict[str, Any]]]:
        """What has gone over the network since this was last asked, as Chromium's protocol tells
        it, where it was begun so."""
        for entry in self._in_session("se/log", type="performance") or ():
            told = json.loads(entry.get("message") or "{}").get("message", {})
            if str(told.get("method", "")).startswith("Network."):
                yield told["method"], told.get("params", {})

    def drawn(self) -> None:
        """Wait until the page is drawn anew: what is turned before may be lost."""
        self._in_session("execute/async", script=DRAWN, args=[])

    def element(self, script: str, *arguments: Any) -> dict[str, str]:
        """The element that a script finds.

        Raises:
            Gone: where it finds none.
        """
        found = self.run(script, *arguments)
        if not isinstance(found, dict) or ELEMENT not in found:
            raise Gone(f"there is no {arguments[0] if arguments else 'element'}")
        return found

    def press(self, element: Mapping[str, str]) -> None:
        """A press in the middle of what is in view of an element, which is brought there.

        Raises:
            Gone: where something else lies over it.
        """
        # What a click of the standard does (W3C WebDriver, 12.5.1), in half the time.
        middle = self.run(MIDDLE, element) if self.is_chromium else OPTION
        if middle is None:
            raise Gone("something lies over it")
        if middle == OPTION:
            self._in_session(f"element/{element[ELEMENT]}/click")
        else:
            self.press_at(*middle)

    def press_where_free(self, element: Mapping[str, str]) -> None:
        """A press on an element where it is in view, which a driver would else bring into view
        as a whole."""
        self.press_at(*self.run(FREE, element))

    def press_holding(self, key: str, element: Mapping[str, str]) -> None:
        """A press on an element while a key is held down."""
        x, y = self.run(FREE, element)
        there = {"type": "pointerMove", "duration": 0, "x": round(x), "y": round(y)}
        down, up = ({"type": each, "button": 0} for each in ("pointerDown", "pointerUp"))
        wait = {"type": "pause", "duration": 0}
        held = [{"type": each, "value": KEYS[key]} for each in ("keyDown", "keyUp")]
        keys = {"type": "key", "id": "keys", "actions": [held[0], wait, wait, wait, held[1]]}
        mouse = {"type": "pointer", "id": "mouse", "actions": [wait, there, down, up, wait]}
        self._act(keys, mouse)

    def press_at(self, x: float, y: float) -> None:
        """A press at a place of the window, in CSS pixels."""
        steps = [
            {"type": "pointerMove", "duration": 0, "x": round(x), "y": round(y)},
            {"type": "pointerDown", "button": 0},
            {"type": "pointerUp", "button": 0},
        ]
        self._act({"type": "pointer", "id": "mouse", "actions": steps})

    def drag(self, element: Mapping[str, str], across: int, down: int) -> None:
        """Take hold of an element, move it by so many CSS pixels, and let go."""
        x, y = map(round, self.run(FREE, element))
        steps = [
            {"type": "pointerMove", "duration": 0, "x": x, "y": y},
            {"type": "pointerDown", "button": 0},
            {"type": "pointerMove", "duration": 0, "x": x + across, "y": y + down},
            {"type": "pointerUp", "button": 0},
        ]
        self._act({"type": "pointer", "id": "mouse", "actions": steps})

    def hold_at(self, x: float, y: float, ms: int) -> None:
        """A press at a place of the window that is held for some ms."""
        steps = [
            {"type": "pointerMove", "duration": 0, "x": round(x), "y": round(y)},
            {"type": "pointerDown", "button": 0},
            {"type": "pause", "duration": ms},
            {"type": "pointerUp", "button": 0},
        ]
        self._act({"type": "pointer", "id": "mouse", "actions": steps})

    def wheel(self, element: Mapping[str, str], across: int, down: int) -> None:
        """Turn the wheel by so many CSS pixels, over a place of an element that nothing covers."""
        x, y = self.run(FREE, element)
        step = {
            "type": "scroll",
            "origin": "viewport",
            "x": round(x),
            "y": round(y),
            "deltaX": across,
            "deltaY": down,
            "duration": 0,
        }
        self._act({"type": "wheel", "id": "wheel", "actions": [step]})

    def _act(self, *sources: Mapping[str, Any]) -> None:
        self._in_session("actions", actions=list(sources))

    def type(self, text: str) -> None:
        """Type into what has the focus."""
        steps: list[dict[str, str]] = []
        for letter in text:
            steps += [{"type": "keyDown", "value": letter}, {"type": "keyUp", "value": letter}]
        self._act({"type": "key", "id": "keys", "actions": steps})

    def type_with_control(self, letter: str) -> None:
        """Type a letter with Control held down."""
        control = KEYS["control"]
        steps = [
            {"type": "keyDown", "value": control},
            {"type": "keyDown", "value": letter},
            {"type": "keyUp", "value": letter},
            {"type": "keyUp", "value": control},
        ]
        self._act({"type": "key", "id": "keys", "actions": steps})

    def type_over(self, text: str) -> None:
        """Type in place of all that the field with the focus holds."""
        self.type_with_control("a")
        self.type(text or KEYS["delete"])

    def picture(self) -> bytes:
        """What the page looks like, as PNG."""
        return base64.b64decode(self._call("GET", f"{self.session}/screenshot"))
