"""Other data for the screens that there are: a file or a service in place of a source."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from cadena.model.app import App
from cadena.model.edits.copy_to_source import mapping
from cadena.model.edits.renaming import with_fields_mapped
from cadena.model.edits.shaping import with_source
from cadena.model.edits.wiring import Types, key_type
from cadena.model.find import by_id
from cadena.model.source import Source
from cadena.model.values import FieldType


def with_source_exchanged(
    app: App, types: Types, source: str, to: Source, found: Mapping[str, FieldType]
) -> App:
    """The app with another source in the place of one, bound by the fields that are most alike.

    The key is the key and the label the label; the others go by name and type. Fields that are
    found nowhere stay bound as they were: ``references.not_found`` names them.

    Args:
        to: the source that comes, of any identifier.
        found: the types of its fields.
    """
    old = by_id(app.sources, source)
    if old is None:
        return app
    names = {old.key: to.key}
    if old.label and to.label:
        names.setdefault(old.label, to.label)
    left = {name: kind for name, kind in found.items() if name not in names.values()}
    have = {name: kind for name, kind in types.get(source, {}).items() if name not in names}
    both = {"old": have, "new": left}
    for pair in mapping(both, "old", "new", tuple(have), by_type=False):
        if pair.to:
            names[pair.field] = pair.to
    app = with_fields_mapped(app, source, {old: new for old, new in names.items() if old != new})
    app = with_source(app, replace(to, id=source, title=old.title or to.title))
    kind = key_type(found.get(to.key, "text"))
    screens = tuple(
        replace(
            screen,
            parameters=tuple(
                replace(parameter, type=kind) if parameter.key_of == source else parameter
                for parameter in screen.parameters
            ),
        )
        for screen in app.screens
    )
    return replace(app, screens=screens)
