"""The engine: what a screen, a row or a window does to a session, by ``docs/rules.md``.

One way in, ``step(app, session, event)``: a session after an event, and notes of what it did. All
of it is pure. Its functions, and those of ``runs`` and ``scene`` that stand on them, take the same
things under the same names:

Args:
    app: the wired app (``wired.WiredApp``): model and records, and what was found of them once.
    session: a state of the app, as a person has it before them; it never changes.
    index: which entry of the chain of the section that is shown, from 0, the root.
    entry: that entry itself: its screen, its arguments, and what is typed, searched and scrolled.
    part: which list of the screen, by its block or strip; empty for that of a list screen.
    key: of a record, as its source holds it: a text or a whole number; 0 is one.
    area, view, clip: where something lies, in dp of the window: x, y, width, height.
    width, height, offset: sizes and places, in dp.

Raises:
    Refused: where an event cannot be; ``step`` tells it as a note, and nothing has changed.
"""
