"""Screens made for what opens them: the likeliest kind, and forms whose new records belong."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, Literal, NamedTuple

from msgspec.structs import replace

from cadena.model.app import (
    App,
    DetailScreen,
    FormScreen,
    FromArgument,
    FromField,
    Link,
    Parameter,
    Screen,
    Trigger,
)
from cadena.model.blocks import FormField
from cadena.model.edits.wiring import (
    Types,
    key_type,
    link_to,
    list_of,
    make_target,
    source_of,
    with_argument,
    with_link,
    with_screen,
    without_argument,
)
from cadena.model.find import by_id, slug, unused
from cadena.model.listing import Condition
from cadena.model.naming import singular, words_of
from cadena.model.screen_parts import label_of, listings, opens_with, source_shown
from cadena.model.source import Field, Source

Target = Literal["detail", "detail with next and before", "form", "list"]
NEW: Final = frozenset({"new", "add", "create", "insert"})
EDIT: Final = frozenset({"edit", "change", "modify", "rename", "update", "write"})
"""Words of what is pressed that say that a form is opened, for a new record or for this one."""


def label_words(app: App, trigger: Trigger) -> frozenset[str]:
    """The words of what is pressed, in small letters; those of a row are none of its own."""
    screen = by_id(app.screens, trigger.screen)
    if screen is None or trigger.on not in ("action", "button"):
        return frozenset()
    return frozenset(words_of(label_of(screen, trigger)))


def kinds_for(app: App, trigger: Trigger) -> tuple[Target, ...]:
    """What a trigger could open that is not there yet, the likeliest first."""
    if trigger.on == "field":
        return ("list",)
    if trigger.on == "row":
        return "detail", "detail with next and before", "form", "list"
    if (NEW | EDIT) & label_words(app, trigger):
        return "form", "detail", "list"
    return "detail", "form", "list"


def target_made(
    app: App, types: Types, trigger: Trigger, kind: Target | None = None, title: str = ""
) -> tuple[App, Link]:
    """Make the screen of a kind that a trigger should open, and link it.

    A list is of the records that refer to those of the trigger, where there are any; a form for
    what is new is of the records that its words name, and what it saves belongs where it was
    added: *Add a room* on a hut makes a form whose rooms are of that hut.

    Args:
        kind: the likeliest, where none is given.
        title: what to call a detail.

    Raises:
        ValueError: when there are no records to make a screen of.
    """
    kind = kind or kinds_for(app, trigger)[0]
    source = _own_source(app, trigger)
    if source is None:
        raise ValueError(f"{trigger.screen} has no records to open a screen for")
    if kind == "form":
        return _form_made(app, types, trigger, source)
    if kind == "detail":
        return make_target(app, types, trigger, title)
    if kind == "detail with next and before":
        app, link = make_target(app, types, trigger, title)
        screens = (
            replace(screen, neighbours=True)
            if isinstance(screen, DetailScreen) and screen.id == link.to
            else screen
            for screen in app.screens
        )
        return replace(app, screens=tuple(screens)), link
    refers = (each for each in app.sources if any(_is_to(f, source) for f in each.fields))
    shown = next(refers, source)
    if trigger.on == "field":
        shown = _chosen_among(app, trigger, source) or source
    made = list_of(app, types, shown, title)
    return link_to(with_screen(app, made), types, trigger, made.id)


def _chosen_among(app: App, trigger: Trigger, source: Source) -> Source | None:
    """The source whose records a field of a form is one of."""
    form = by_id(app.screens, trigger.screen)
    fields = form.fields if isinstance(form, FormScreen) else ()
    among = next((each.choices_from for each in fields if each.field == trigger.part), "")
    refers = (e.refers.to for e in source.fields if e.name == trigger.part and e.refers is not None)
    return by_id(app.sources, among or next(refers, ""))


def _own_source(app: App, trigger: Trigger) -> Source | None:
    screen = by_id(app.screens, trigger.screen)
    found = source_of(app, trigger)
    if found is None and screen is not None:
        found = by_id(app.sources, source_shown(screen))
    return found


def _is_to(field: Field, source: Source) -> bool:
    return field.refers is not None and field.refers.to == source.id


def form_for(app: App, types: Types, source: Source) -> FormScreen:
    """A new form of a source: every field but the key, those always declared required."""
    fields = types.get(source.id, {})
    declared = {each.name: each for each in source.fields}
    kind = fields.get(source.key, "text")
    parameter = Parameter(
        name=slug(source.id).replace("-", "_"),
        type=key_type(kind),
        need="none",
        key_of=source.id,
    )
    made = tuple(
        FormField(field=each, required=each in declared and declared[each].required)
        for each, kind in fields.items()
        if each != source.key
        and not kind.startswith("list of")
        and "." not in each
        and not (each in declared and declared[each].made_of)
    )
    title = source.title or source.id.capitalize()
    return FormScreen(
        id=unused(f"{source.id}-form", [each.id for each in app.screens]),
        title=f"Change {title.lower()}",
        title_new=f"New in {title}",
        source=source.id,
        key=parameter.name,
        parameters=(parameter,),
        fields=made,
    )


class Belonging(NamedTuple):
    """Records that belong to those of another source: which field of them says to which."""

    source: Source
    field: str


def _belonging(app: App, trigger: Trigger, owner: Source) -> Iterator[Belonging]:
    """What can belong to the record that a trigger is about: lists beside it first."""
    screen = by_id(app.screens, trigger.screen)
    if isinstance(screen, DetailScreen):
        for listing in listings(screen).values():
            source = by_id(app.sources, listing.source)
            for condition in listing.where:
                if (
                    source is not None
                    and condition.argument == screen.key
                    and condition.test == "is"
                ):
                    yield Belonging(source, condition.field)
    for source in app.sources:
        for field in source.fields:
            if _is_to(field, owner) and field.refers is not None and not field.refers.by:
                yield Belonging(source, field.name)


def _form_made(app: App, types: Types, trigger: Trigger, owner: Source) -> tuple[App, Link]:
    """A form for what the words of a trigger say, linked from it."""
    words = label_words(app, trigger)
    is_new = bool(NEW & words)
    belongs = None
    if is_new and not _names(words, owner):
        known = list(_belonging(app, trigger, owner))
        named = (each for each in known if _names(words, each.source))
        beside = [each for each in known if trigger.on == "button"]
        belongs = next(named, beside[0] if len({e.source.id for e in beside}) == 1 else None)
    form = form_for(app, types, owner if belongs is None else belongs.source)
    if belongs is not None:
        form = _of_owner(app, types, form, owner, belongs.field)
    app, link = link_to(with_screen(app, form), types, trigger, form.id)
    if is_new:
        link = without_argument(link, form.key)
        app = with_link(app, link)
    if belongs is not None:
        app = kept_on_its_lists(app, link)
    return app, by_id(app.links, link.id) or link


def _names(words: frozenset[str], source: Source) -> bool:
    """Whether words name the records of a source: room, rooms."""
    said = {*words_of(source.id), *words_of(source.title)}
    return bool(words & {*said, *(singular(each) for each in said)})


def _of_owner(app: App, types: Types, form: FormScreen, owner: Source, field: str) -> FormScreen:
    """A form whose new records begin as ones of the record that it is given the key of."""
    taken = [each.name for each in form.parameters]
    name = unused(slug(singular(owner.id)).replace("-", "_"), taken)
    kind = key_type(types.get(owner.id, {}).get(owner.key, "text"))
    parameter = Parameter(name=name, type=kind, need="none", key_of=owner.id)
    fields = _beginning(form.fields, FormField(field=field, argument=name))
    return replace(form, parameters=(*form.parameters, parameter), fields=fields)


def _beginning(fields: tuple[FormField, ...], begins: FormField) -> tuple[FormField, ...]:
    """The fields of a form, one of them beginning as another does; added where it is not there."""
    if all(each.field != begins.field for each in fields):
        return (*fields, begins)
    return tuple(
        replace(field, argument=begins.argument, value=begins.value, default=begins.default)
        if field.field == begins.field
        else field
        for field in fields
    )


class Unlisted(NamedTuple):
    """A condition of a list that what is added from beside it would not pass."""

    part: str
    condition: Condition


def unlisted(app: App, link: Link) -> Iterator[Unlisted]:
    """The conditions that keep a new record off the lists that it is added beside.

    Said only where it is certain, or where a person would have to choose again what the list
    already says: that its field begins as an argument of the list, as an app-wide value or as a
    constant is what *is* asks for; other tests are left to who types.
    """
    form, screen = by_id(app.screens, link.to), by_id(app.screens, link.trigger.screen)
    is_edit = any(each.parameter == getattr(form, "key", "") for each in link.arguments)
    if not isinstance(form, FormScreen) or screen is None or is_edit:
        return
    if link.trigger.on != "button":
        return
    fields = {each.field: each for each in form.fields}
    for part, listing in listings(screen).items():
        if listing.source != form.source:
            continue
        for condition in listing.where:
            field = fields.get(condition.field)
            if (
                condition.test == "is"
                and not condition.choice
                and not _passes(condition, field, link, screen)
            ):
                yield Unlisted(part, condition)


def _passes(condition: Condition, field: FormField | None, link: Link, screen: Screen) -> bool:
    if condition.argument:
        given = next(
            (e for e in link.arguments if field is not None and e.parameter == field.argument), None
        )
        key = opens_with(screen)
        is_key = key is not None and condition.argument == key.name
        return (isinstance(given, FromArgument) and given.argument == condition.argument) or (
            is_key and isinstance(given, FromField) and "." not in given.field
        )
    if field is None:
        return condition.constant is None and not condition.value
    if condition.value:
        return field.value in ("", condition.value)
    return field.default is None or field.default == condition.constant


def kept_on_its_lists(app: App, link: Link) -> App:
    """The app with what a link adds beginning so that it is on the lists beside it."""
    for _, condition in list(unlisted(app, link)):
        form, screen = by_id(app.screens, link.to), by_id(app.screens, link.trigger.screen)
        if not isinstance(form, FormScreen) or screen is None:
            return app
        begins = FormField(field=condition.field, value=condition.value, default=condition.constant)
        if condition.argument:
            given = next((e for e in screen.parameters if e.name == condition.argument), None)
            if given is None:
                continue
            taken = {each.name for each in form.parameters if each.name != form.key}
            name = given.name if given.name in taken else unused(given.name, [form.key])
            begins = FormField(field=condition.field, argument=name)
            if name not in taken:
                made = replace(given, name=name, need="none", default=None)
                form = replace(form, parameters=(*form.parameters, made))
            link = with_argument(link, FromArgument(parameter=name, argument=given.name))
            app = with_link(app, link)
        app = with_screen(app, replace(form, fields=_beginning(form.fields, begins)))
    return app
