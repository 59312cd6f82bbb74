"""Records that become a file of their own, since theirs cannot hold them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from cadena.model.edits.shaping import with_source
from cadena.model.find import by_id, slug, unused
from cadena.model.source import Csv, Source
from cadena.sources.open_project import place_of

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document
    from cadena.sources.write_back import Edited


def of_its_own(document: Document, source: Source) -> Source:
    """A source whose records are in a JSON file of their own, of a name that nothing has."""
    assert document.file is not None
    files = (each.file for each in document.app.sources)
    places = (place.file for place in document.history.tables)
    stems = [name.partition(".")[0] for name in (*files, *places)]
    taken = [*stems, *(each.stem for each in document.file.parent.iterdir())]
    name = f"{unused(slug(source.id), taken)}.json"
    return replace(source, file=name, at="", inside=None, csv=Csv())


def keep_in_own_file(document: Document, name: str) -> None:
    """Keep the records of a source in a file of their own from now on; theirs stays as it is."""
    from cadena.desktop.document.typing import table_now

    source = by_id(document.app.sources, name)
    if source is None:
        return
    own = of_its_own(document, source)
    table = table_now(document, source)
    stays = {at: each for at, each in document.history.tables.items() if at != place_of(source)}
    app = with_source(document.app, own)
    document.edit(f"keep {name} in {own.file}", app, tables={**stays, place_of(own): table})


def under_free_names(document: Document, edited: Sequence[Edited]) -> bool:
    """Give files that are still to be made another name, where somebody has made one of theirs;
    whether any had to be."""
    assert document.file is not None
    app, tables = document.app, dict(document.history.tables)
    for edited_table in edited:
        if (
            edited_table.before is None
            and (document.file.parent / edited_table.source.file).exists()
        ):
            own = of_its_own(document, edited_table.source)
            app = with_source(app, own)
            tables[place_of(own)] = tables.pop(place_of(edited_table.source))
    if app is document.app:
        return False
    document.edit("choose other names for new files", app, tables=tables)
    return True
