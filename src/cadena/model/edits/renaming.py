"""Fields called otherwise, wherever an app binds them: renamed, or found in other data."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from cadena.model.app import App, Brings, FormScreen, FromField, Link, ListScreen, Screen
from cadena.model.blocks import (
    ActionsBlock,
    AddressBlock,
    Block,
    BodyBlock,
    FactsBlock,
    HeadingBlock,
    ListBlock,
    PictureBlock,
)
from cadena.model.edits.shaping import declared_fields, with_source
from cadena.model.edits.wiring import Types, source_of
from cadena.model.find import by_id
from cadena.model.listing import (
    Button,
    Condition,
    Does,
    LeaveFor,
    Listing,
    RemoveRecord,
    SetField,
    Sort,
    ToggleField,
)
from cadena.model.naming import FIELD, names_in
from cadena.model.references import MOST_STEPS, FromOthers, step_of
from cadena.model.screen_parts import listings
from cadena.model.source import Source


def with_field_renamed(app: App, types: Types, source: str, name: str, to: str) -> App:
    """The app with one field of a source called otherwise, and bound by its new name."""
    owner = by_id(app.sources, source)
    if owner is None:
        return app
    owner = replace(owner, fields=declared_fields(owner, types))
    app = with_fields_mapped(with_source(app, owner), source, {name: to})
    said = _Renaming(app, source, {name: to})
    fields = tuple(
        replace(
            field,
            name=to if field.name == name else field.name,
            when_empty=said.text(source, field.when_empty),
            made_of=said.names(source, field.made_of),
        )
        for field in owner.fields
    )
    made = replace(
        owner,
        key=said.path(source, owner.key),
        key_from=said.names(source, owner.key_from),
        label=said.path(source, owner.label),
        list_brings=said.names(source, owner.list_brings),
        fields=fields,
        stands_out=tuple(
            replace(rule, field=said.path(source, rule.field)) for rule in owner.stands_out
        ),
    )
    others = tuple(made if each.id == source else _refers(each, said) for each in app.sources)
    return replace(app, sources=others)


def with_fields_mapped(app: App, source: str, names: Mapping[str, str]) -> App:
    """The app with fields of a source bound by other names, on screens and in links."""
    said = _Renaming(app, source, names)
    return replace(
        app,
        screens=tuple(said.screen(each) for each in app.screens),
        links=tuple(said.link(each) for each in app.links),
    )


def _refers(source: Source, said: _Renaming) -> Source:
    """A source whose references go by the new name."""
    fields = tuple(
        replace(field, refers=replace(field.refers, by=said.path(field.refers.to, field.refers.by)))
        if field.refers is not None and field.refers.by
        else field
        for field in source.fields
    )
    return source if fields == source.fields else replace(source, fields=fields)


class _Renaming:
    """What each thing of an app is once fields of one source are called otherwise."""

    def __init__(self, app: App, source: str, names: Mapping[str, str]) -> None:
        self.app, self.source, self.to = app, source, names
        self.sources = {each.id: each for each in app.sources}

    def path(self, source: str, path: str, steps: int = 0) -> str:
        """A field, or a path over references, as it is called from a source."""
        if source == self.source and path in self.to:
            return self.to[path]
        step = step_of(self.sources, source, path)
        if step is None and names_in(path):
            return self.text(source, path)
        if step is None or steps == MOST_STEPS:
            return path
        rest = self.path(step.to, step.rest, steps + 1)
        if isinstance(step, FromOthers):
            field = self.to.get(step.field, step.field) if step.to == self.source else step.field
            named = f"({field})" if path.startswith("(", len(step.to)) else ""
            return f"{step.to}{named}.{step.gives}" + (f".{rest}" if rest else "")
        field = self.to.get(step.field, step.field) if source == self.source else step.field
        return f"{field}.{rest}"

    def names(self, source: str, names: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(self.path(source, each) for each in names)

    def text(self, source: str, text: str) -> str:
        return FIELD.sub(lambda found: "{" + self.path(source, found[1]) + "}", text)

    def screen(self, screen: Screen) -> Screen:
        if isinstance(screen, ListScreen):
            buttons = self.buttons(screen.rows.source, screen.buttons)
            above = tuple(replace(e, rows=self.listing(e.rows)) for e in screen.above)
            return replace(screen, rows=self.listing(screen.rows), above=above, buttons=buttons)
        of = screen.source
        if isinstance(screen, FormScreen):
            fields = tuple(replace(e, field=self.path(of, e.field)) for e in screen.fields)
            title, says = self.text(of, screen.title), self.text(of, screen.says)
            return replace(screen, title=title, says=says, fields=fields)
        blocks = tuple(self.block(of, each) for each in screen.blocks)
        return replace(screen, title=self.text(of, screen.title), blocks=blocks)

    def block(self, of: str, block: Block) -> Block:
        match block:
            case PictureBlock() | BodyBlock() | AddressBlock():
                return replace(block, field=self.path(of, block.field))
            case HeadingBlock():
                return replace(block, text=self.text(of, block.text))
            case FactsBlock():
                return replace(
                    block,
                    fields=self.names(of, block.fields),
                    in_place=self.names(of, block.in_place),
                    opens=self.names(of, block.opens),
                    leaves=self.names(of, block.leaves),
                )
            case ListBlock():
                return replace(block, rows=self.listing(block.rows))
            case ActionsBlock():
                return replace(block, buttons=self.buttons(of, block.buttons))
        return block

    def listing(self, listing: Listing) -> Listing:
        of, row = listing.source, listing.row
        return replace(
            listing,
            where=self._conditions(of, listing.where),
            search=self.names(of, listing.search),
            sort=self._sort(of, listing.sort),
            orders=tuple(replace(e, sort=self._sort(of, e.sort)) for e in listing.orders),
            press=replace(listing.press, field=self.path(of, listing.press.field))
            if isinstance(listing.press, LeaveFor)
            else listing.press,
            columns=tuple(
                replace(
                    column,
                    shows=self.text(of, column.shows)
                    if names_in(column.shows)
                    else self.path(of, column.shows),
                )
                for column in listing.columns
            ),
            group_by=self.path(of, listing.group_by),
            groups=tuple(
                replace(group, where=self._conditions(of, group.where)) for group in listing.groups
            ),
            row=replace(
                row,
                title=self.text(of, row.title),
                subtitle=self.text(of, row.subtitle),
                badge=self.text(of, row.badge),
                picture=self.path(of, row.picture),
            ),
            actions=self.buttons(of, listing.actions),
        )

    def _sort(self, of: str, sort: tuple[Sort, ...]) -> tuple[Sort, ...]:
        return tuple(replace(each, field=self.path(of, each.field)) for each in sort)

    def _conditions(self, of: str, where: tuple[Condition, ...]) -> tuple[Condition, ...]:
        return tuple(replace(each, field=self.path(of, each.field)) for each in where)

    def buttons(self, of: str, buttons: tuple[Button, ...]) -> tuple[Button, ...]:
        return tuple(
            replace(button, says=self.text(of, button.says), does=self._does(of, button.does))
            for button in buttons
        )

    def _does(self, of: str, does: Does) -> Does:
        if isinstance(does, SetField | ToggleField | LeaveFor):
            return replace(does, field=self.path(of, does.field))
        if isinstance(does, RemoveRecord):
            return replace(does, confirm=self.text(of, does.confirm))
        return does

    def link(self, link: Link) -> Link:
        owner = source_of(self.app, link.trigger)
        if owner is None:
            return link
        arguments = tuple(
            replace(argument, field=self.path(owner.id, argument.field))
            if isinstance(argument, FromField)
            else argument
            for argument in link.arguments
        )
        trigger = link.trigger
        if trigger.on in ("fact", "field"):
            trigger = replace(trigger, part=self.path(owner.id, trigger.part))
        when = link.when and replace(link.when, field=self.path(owner.id, link.when.field))
        return replace(
            link, trigger=trigger, arguments=arguments, brings=self.brings(link), when=when
        )

    def brings(self, link: Link) -> Brings | None:
        target = by_id(self.app.screens, link.to)
        if link.brings is None or target is None:
            return link.brings
        listing = listings(target).get(link.brings.list)
        of = "" if listing is None else listing.source
        return replace(link.brings, field=self.path(of, link.brings.field))
