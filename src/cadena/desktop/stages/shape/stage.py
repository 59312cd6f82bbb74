"""The Shape stage: what goes on the row, and what waits for the detail."""

from __future__ import annotations

from functools import partial
from typing import Final

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedScreen
from cadena.desktop.painting.theme import px
from cadena.desktop.stages.shape import sentences
from cadena.desktop.stages.shape.blocks import SCALE, Blocks
from cadena.desktop.stages.shape.fields import Fields
from cadena.desktop.stages.shape.pairs import Pair, pair_selected, pair_words, pairs_of
from cadena.desktop.stages.shape.row_picture import RowPicture
from cadena.desktop.stages.shape.selected import (
    SelectedBlock,
    SelectedFormField,
    SelectedList,
    SelectedSlot,
)
from cadena.desktop.widgets.controls import choice, clear, label, line, menu_choice
from cadena.desktop.widgets.sentence_controls import Flow
from cadena.desktop.widgets.strip import Strip
from cadena.desktop.widgets.words import Word
from cadena.engine.wired import WiredApp
from cadena.model.app import DetailScreen, FormScreen, Screen
from cadena.model.blocks import FormField
from cadena.model.edits import shaping
from cadena.model.edits.wiring import moved, with_screen
from cadena.model.field_uses import SLOTS, shows, slots_with
from cadena.model.find import by_id
from cadena.model.listing import Listing
from cadena.model.naming import many
from cadena.model.screen_parts import listings
from cadena.records.records import Records
from cadena.scene.shape import at_once, block_scene, field_scene, fields_of_row, row_scene

CASES: Final = ("typical", "longest", "emptiest")
LONG: Final = 60
ROW_LEAST, ROW_MOST = 240.0, 400.0


class ShapeStage(QWidget):
    """The record, the row in three cases, the detail block by block, and the strip."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.case = 0
        self._at: tuple[str, str] | None = None
        self._worst: dict[tuple[int, tuple[str, ...]], tuple[int, int, int]] = {}
        self._plain: tuple[WiredApp, WiredApp] | None = None
        self.picture = Fields()
        self.row = RowPicture()
        self.blocks = Blocks()
        self.strip = Strip(document, "Shape", sentences.of)
        self._lay_out()
        self.picture.toggled.connect(self.toggle)
        self.picture.chosen.connect(self._choose_field)
        self.row.chosen.connect(self._choose_case)
        self.row.dropped.connect(lambda name: self._put(name, "row"))
        self.blocks.dropped.connect(lambda name: self._put(name, "detail"))
        self.blocks.chosen.connect(self._choose_block)
        self.blocks.moved.connect(self._move_block)
        self.blocks.removed.connect(self._remove_block)
        self._drawn = 0
        self._later = QTimer(self, singleShot=True, interval=0)
        self._later.timeout.connect(self._redraw)
        self.blocks.resized.connect(self._later.start)
        document.watch(Change.APP | Change.SELECTION | Change.STAGE, self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        self._head = Flow()
        self._cases = Flow(gap=4)
        self.record = label("", "subject")
        left = QVBoxLayout()
        left.addWidget(self.record)
        left.addLayout(self._cases)
        left.addWidget(self.picture, 1)
        self.row_title = label("", "subject")
        self._slots = QGridLayout()
        self._slots.setVerticalSpacing(4)
        self._slots.setColumnStretch(1, 1)
        self._about = Flow()
        inside = QWidget()
        inside.setObjectName("board-head")
        middle = QVBoxLayout(inside)
        middle.setContentsMargins(0, 0, 4, 0)
        middle.addWidget(self.row_title)
        middle.addWidget(self.row)
        middle.addLayout(self._slots)
        middle.addLayout(self._about)
        middle.addStretch(1)
        held = QScrollArea()
        held.setWidget(inside)
        held.setWidgetResizable(True)
        held.setFrameShape(QFrame.Shape.NoFrame)
        held.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        held.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.row.room = self.middle = held
        self.detail_title = label("", "subject")
        right = QVBoxLayout()
        right.addWidget(self.detail_title)
        right.addWidget(self.blocks, 1)
        self._add = Flow()
        right.addLayout(self._add)
        columns = QHBoxLayout()
        columns.setSpacing(16)
        columns.addLayout(left, 19)
        columns.addWidget(held, 27)
        columns.addLayout(right, 26)
        inner = QVBoxLayout()
        inner.setContentsMargins(20, 8, 16, 6)
        inner.addLayout(self._head)
        inner.addLayout(columns, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(inner, 1)
        layout.addWidget(self.strip)

    @property
    def pair(self) -> Pair | None:
        """The pair that is shown."""
        return pair_selected(self.document.app, self.document.selection, self._at)

    @property
    def listing(self) -> Listing | None:
        pair = self.pair
        screen = None if pair is None else by_id(self.document.app.screens, pair.screen)
        return None if screen is None or pair is None else listings(screen).get(pair.part)

    @property
    def detail(self) -> DetailScreen | None:
        pair = self.pair
        found = None if pair is None else by_id(self.document.app.screens, pair.detail)
        return found if isinstance(found, DetailScreen) else None

    @property
    def form(self) -> FormScreen | None:
        pair = self.pair
        found = None if pair is None else by_id(self.document.app.screens, pair.screen)
        return found if isinstance(found, FormScreen) else None

    def refresh(self) -> None:
        """Show the pair that is selected."""
        if self.document.stage != "Shape":
            return
        pair = self.pair
        self._at = None if pair is None else (pair.screen, pair.part)
        self._fill_head(pair)
        listing, form = self.listing, self.form
        source = form.source if form is not None else listing.source if listing else ""
        records = self.document.records.get(source)
        has_records = records is not None and len(records) > 0
        for widget in (self.picture, self.row, self.blocks):
            widget.setVisible(has_records)
        clear(self._slots)
        if records is None or not has_records:
            self.record.setText("")
            self.row_title.setText("No records to shape" if pair is None else "No records")
            self.detail_title.setText("")
            self._about.say(())
            self._add.say(())
            return
        rows = self._rows_of(records, listing)
        self._fill_record(records, rows)
        if listing is not None and pair is not None:
            self._fill_row(pair, listing, records, rows)
            self._fill_slots(pair, listing)
        else:
            self.row_title.setText("")
            self._about.say(())
        self.middle.setVisible(listing is not None)
        self._fill_detail(records, rows)

    def _fill_head(self, pair: Pair | None) -> None:
        app = self.document.app
        options = [
            (pair_words(app, each), partial(self._show_pair, each)) for each in pairs_of(app)
        ]
        text = pair_words(app, pair) if pair is not None else "Nothing to shape yet"
        forms = [
            (source.title or source.id, partial(sentences.add_form, self.document, source))
            for source in self.document.app.sources
        ]
        self._head.say(
            [
                Word("menu", text, name="list and detail", options=options, role="section"),
                Word("menu", "+ form", name="add a form", options=forms, role="section"),
                Word("text", "what goes on the row, what waits for the detail"),
            ]
        )

    def _show_pair(self, pair: Pair) -> None:
        is_form = pair.detail == pair.screen
        to = SelectedScreen(pair.screen) if is_form else SelectedList(pair.screen, pair.part)
        self.document.select(to)

    def _rows_of(self, records: Records, listing: Listing | None) -> tuple[int, int, int]:
        names = fields_of_row(listing) if listing is not None else tuple(records.types)
        at = (records.serial, names)
        if at not in self._worst:
            from cadena.sources.profile import worst_rows

            self._worst[at] = worst_rows(records, names or tuple(records.types))
        return self._worst[at]

    def _fill_record(self, records: Records, rows: tuple[int, int, int]) -> None:
        choose = self._choose_case
        self._cases.say(
            [
                Word("choice", case, partial(choose, at), at == self.case, f"{case} record")
                for at, case in enumerate(CASES)
            ]
        )
        record = records.record(rows[self.case])
        self.record.setText("Record")
        self.picture.show_record(record, {name: self._places(name) for name in record})

    def _places(self, field: str) -> list[str]:
        listing, detail, form = self.listing, self.detail, self.form
        found = []
        if listing is not None and slots_with(listing, field):
            found.append("row")
        if detail is not None and any(shows(each, field) for each in detail.blocks):
            found.append("detail")
        if form is not None and any(each.field == field for each in form.fields):
            found.append("form")
        return found

    def _plain_app(self) -> WiredApp:
        wired = self.document.wired
        if self._plain is None or self._plain[0] is not wired:
            self._plain = (wired, at_once(wired))
        return self._plain[1]

    def _fill_row(
        self, pair: Pair, listing: Listing, records: Records, rows: tuple[int, int, int]
    ) -> None:
        app = self._plain_app()
        width = min(max(ROW_LEAST, self.document.session.window.size[0]), ROW_MOST)
        scenes = [
            (case, row_scene(app, listing, records, row, width))
            for case, row in zip(CASES, rows, strict=True)
        ]
        tall = scenes[0][1].height
        self.row_title.setText(f"The row   {tall:g} dp tall, {len(records)} of them")
        self.row.show_rows(scenes, self.case, self.document.pictures)

    def _fill_slots(self, pair: Pair, listing: Listing) -> None:
        types = self.document.types.get(listing.source, {})
        for number, slot in enumerate(("picture", "title", "subtitle", "badge")):
            value = getattr(listing.row, slot)
            name = choice(
                slot,
                partial(self._choose_slot, pair, slot),
                self._is_slot(pair, slot),
                f"slot {slot}",
                "section",
            )
            self._slots.addWidget(name, number, 0)
            name.show()
            if slot == "picture":
                pictures = [each for each, kind in types.items() if kind == "picture"]
                options = [("none", partial(self._set_slot, slot, ""))]
                options += [(each, partial(self._set_slot, slot, each)) for each in pictures]
                control: QWidget = menu_choice(value or "none", options, "picture of the row")
            else:
                control = line(value, partial(self._set_slot, slot), f"{slot} of the row", 150)
                control.setMaximumWidth(16_000)
                control.setMinimumWidth(px(120))
            self._slots.addWidget(control, number, 1)
            control.show()
        about = partial(self.document.select, SelectedList(pair.screen, pair.part))
        hint = "press a part of the row, or of the detail, to say how it is said"
        self._about.say([Word("do", "About the list", about), Word("text", hint)])

    def _is_slot(self, pair: Pair, slot: str) -> bool:
        return self.document.selection == SelectedSlot(pair.screen, pair.part, slot)

    def _choose_slot(self, pair: Pair, slot: str) -> None:
        self.document.select(SelectedSlot(pair.screen, pair.part, slot))

    def _set_slot(self, slot: str, text: str) -> None:
        listing = self.listing
        if listing is not None and slot in SLOTS:
            self._change_listing(f"{slot} of the row", shaping.with_slot(listing, slot, text))

    def _change_listing(self, what: str, listing: Listing) -> None:
        pair, app = self.pair, self.document.app
        screen = None if pair is None else by_id(app.screens, pair.screen)
        if pair is not None and screen is not None:
            self.document.edit(what, shaping.with_listing(app, screen, pair.part, listing))

    def _change_screen(self, what: str, screen: DetailScreen | FormScreen) -> None:
        self.document.edit(what, with_screen(self.document.app, screen))

    def _fill_detail(self, records: Records, rows: tuple[int, int, int]) -> None:
        detail = self.detail
        if detail is None:
            if self.form is not None:
                self._fill_form(self.form, records, rows)
                return
            self.blocks.hide()
            self.detail_title.setText("The rows open no detail")
            link = partial(self.document.show_stage, "Link")
            self._add.say([Word("do", "Link them in stage Link", link)])
            return
        app = self._plain_app()
        key = records.key_at(rows[self.case])
        if detail.source != records.source.id:
            other = self.document.records.get(detail.source)
            key = other.key_at(0) if other is not None and len(other) else None
        self._drawn = self.blocks.width()
        width = max(220.0, (self._drawn - 30) / SCALE)
        shown = [(each, block_scene(app, detail, each, key, width)) for each in detail.blocks]
        selection = self.document.selection
        chosen = selection.block if isinstance(selection, SelectedBlock) else ""
        self.detail_title.setText(f"The detail   title {detail.title}")
        self.blocks.show_blocks(shown, self.document.pictures, chosen)
        options = sentences.new_blocks(self.document, detail)
        add = Word("menu", "+ block", name="add a block", options=options)
        self._add.say([add, self._about_it(detail)])

    def _fill_form(self, form: FormScreen, records: Records, rows: tuple[int, int, int]) -> None:
        app = self._plain_app()
        key = records.key_at(rows[self.case])
        self._drawn = self.blocks.width()
        width = max(220.0, (self._drawn - 30) / SCALE)
        shown = [(each, field_scene(app, form, each, key, width)) for each in form.fields]
        selection = self.document.selection
        self.detail_title.setText(f"The form   {many(len(form.fields), 'field')}")
        chosen = selection.field if isinstance(selection, SelectedFormField) else ""
        self.blocks.show_blocks(shown, self.document.pictures, chosen)
        self._add.say([self._about_it(form)])

    def _about_it(self, screen: Screen) -> Word:
        return Word("do", "About it", partial(self.document.select, SelectedScreen(screen.id)))

    def _choose_case(self, number: int) -> None:
        self.case = number
        self.refresh()

    def _choose_field(self, name: str) -> None:
        """The strip says the slot or block that shows a field, or the field itself."""
        pair, listing, detail = self.pair, self.listing, self.detail
        if pair is not None and listing is not None and (slots := slots_with(listing, name)):
            self._choose_slot(pair, slots[0])
        elif detail is not None:
            block = next((each for each in detail.blocks if shows(each, name)), None)
            if block is not None:
                self._choose_block(block.id)

    def _choose_block(self, name: str) -> None:
        if self.form is not None:
            self.document.select(SelectedFormField(self.form.id, name))
        elif self.detail is not None:
            self.document.select(SelectedBlock(self.detail.id, name))

    def _move_block(self, name: str, by: int) -> None:
        if self.form is not None and by:
            at = [each.field for each in self.form.fields].index(name)
            fields = moved(self.form.fields, at, by)
            self._change_screen(f"move {name}", sentences.with_fields(self.form, fields))
        elif self.detail is not None and by:
            self._change_screen(f"move {name}", shaping.moved_block(self.detail, name, by))

    def _remove_block(self, name: str) -> None:
        if self.form is not None:
            self.toggle(name, "form")
        elif self.detail is not None:
            self._change_screen(f"remove {name}", shaping.without_block(self.detail, name))

    def _kind(self, field: str) -> tuple[str, bool]:
        """The type of a field of the record, and whether it holds long text."""
        listing, form = self.listing, self.form
        source = form.source if form is not None else listing.source if listing else ""
        records = self.document.records.get(source)
        if records is None or field not in records.types:
            return "text", False
        rows = self._rows_of(records, listing)
        value = records.record(rows[1]).get(field)
        return records.types[field], isinstance(value, str) and len(value) > LONG

    def _put(self, field: str, place: str) -> None:
        if self.form is not None:
            place = "form"
        if field and place not in self._places(field):
            self.toggle(field, place)

    def toggle(self, field: str, place: str) -> None:
        """Put a field on the row or the detail (or the form), or take it off."""
        listing, detail, form = self.listing, self.detail, self.form
        kind, is_long = self._kind(field)
        place = "form" if form is not None else place
        is_there = place in self._places(field)
        if form is not None:
            kept = tuple(each for each in form.fields if each.field != field)
            fields = kept if len(kept) < len(form.fields) else (*kept, FormField(field=field))
            self._change_screen(f"{field} on the form", sentences.with_fields(form, fields))
        elif place == "row" and listing is not None:
            made = (
                shaping.off_row(listing, field)
                if is_there
                else shaping.on_row(listing, field, kind)  # type: ignore[arg-type]
            )
            self._change_listing(f"{field} {'off' if is_there else 'on'} the row", made)
        elif detail is not None:
            changed = (
                shaping.off_detail(detail, field)
                if is_there
                else shaping.on_detail(detail, field, kind, is_long)  # type: ignore[arg-type]
            )
            self._change_screen(f"{field} {'off' if is_there else 'on'} the detail", changed)

    def _redraw(self) -> None:
        """Draw the blocks anew for another width; while they are filled it comes and goes."""
        if self.blocks.width() != self._drawn:
            self.refresh()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self.refresh()
