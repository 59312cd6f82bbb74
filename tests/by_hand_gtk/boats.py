"""A list and its detail, written by hand with GTK: no kit, and what a driver must find.

It is run by the system's own Python, which has GTK.
"""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path

import gi

gi.require_version("Gtk", "3.0")
from gi.repository import Gdk, GLib, Gtk  # noqa: E402

ROW, BAR = 48, 52
BOATS = json.loads((Path(__file__).parent / "boats.json").read_text())
KEPT = Path(os.environ["XDG_DATA_HOME"]) / "boats.json"


def told(widget: Gtk.Widget, identifier: str, name: str = "") -> Gtk.Widget:
    """What tells a widget to who does not see it."""
    accessible = widget.get_accessible()
    accessible.set_accessible_id(identifier)
    if name:
        accessible.set_name(name)
    return widget


class Window(Gtk.Window):
    def __init__(self, width: int, height: int) -> None:
        super().__init__(title="Boats")
        told(self, "window:boats")
        self.set_default_size(width, height)
        self.set_decorated(False)
        self.state = {"boat": None, "scroll": 0.0}
        if KEPT.exists():
            self.state = json.loads(KEPT.read_text())
        self.connect("destroy", Gtk.main_quit)
        self.connect("key-press-event", self.pressed)
        self.show_state()

    def show_state(self) -> None:
        if self.get_child() is not None:
            self.get_child().destroy()
        boat = next((e for e in BOATS if e["id"] == self.state["boat"]), None)
        self.add(self.list() if boat is None else self.detail(boat))
        self.show_all()

    def pane(self, screen: str, title: str, back: str = "") -> Gtk.Box:
        pane = told(Gtk.Box(orientation=Gtk.Orientation.VERTICAL), f"pane:{screen}")
        bar = Gtk.Box()
        bar.set_size_request(-1, BAR)
        if back:
            button = told(Gtk.Button(label=f"‹ {back}"), f"back:{back}")
            button.connect("clicked", lambda _: self.go(boat=None))
            bar.pack_start(button, False, False, 0)
        bar.pack_start(told(Gtk.Label(label=title), "title", title), True, True, 0)
        pane.pack_start(bar, False, False, 0)
        return pane

    def list(self) -> Gtk.Box:
        pane = self.pane("boats:0", "Boats")
        rows = told(Gtk.ListBox(), "list:", "Boats")
        rows.set_selection_mode(Gtk.SelectionMode.NONE)
        for boat in sorted(BOATS, key=lambda each: each["name"]):
            row = told(Gtk.ListBoxRow(), f"row:{json.dumps(boat['id'])}", boat["name"])
            row.boat = boat["id"]
            row.set_size_request(-1, ROW)
            row.add(Gtk.Label(label=boat["name"], xalign=0))
            rows.add(row)
        rows.connect("row-activated", lambda _, row: self.go(boat=row.boat))
        scroll = Gtk.ScrolledWindow()
        scroll.set_overlay_scrolling(False)
        scroll.add(rows)
        told(scroll.get_vscrollbar(), "scroll")
        moved = scroll.get_vadjustment()
        GLib.timeout_add(50, lambda: moved.set_value(self.state["scroll"]))
        GLib.timeout_add(
            100, lambda: moved.connect("value-changed", lambda e: self.keep(scroll=e.get_value()))
            and False
        )  # fmt: skip
        pane.pack_start(scroll, True, True, 0)
        return pane

    def detail(self, boat: dict) -> Gtk.Box:
        pane = self.pane("boat:1", boat["name"], "Boats")
        pane.pack_start(Gtk.Label(label=f"{boat['length']} m"), False, False, 0)
        return pane

    def keep(self, **changed: object) -> None:
        self.state |= changed
        KEPT.write_text(json.dumps(self.state))

    def go(self, **changed: object) -> None:
        self.keep(**changed)
        # Once what is pressed has done with it.
        GLib.idle_add(lambda: self.show_state())

    def pressed(self, _: Gtk.Widget, event: Gdk.EventKey) -> bool:
        is_back = event.keyval == Gdk.KEY_Left and event.state & Gdk.ModifierType.MOD1_MASK
        if is_back and self.state["boat"] is not None:
            self.go(boat=None)
        return bool(is_back)


size = sys.argv[sys.argv.index("--size") + 1] if "--size" in sys.argv else "400x700"
window = Window(*map(int, size.split("x")))
window.present()
Gtk.main()
