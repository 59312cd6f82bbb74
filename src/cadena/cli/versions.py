"""Two versions of a project: by path, by revision, and joined."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

import msgspec

from cadena.model.app import App
from cadena.model.by_thing import Conflict, merged, tree_of
from cadena.model.file.disk import write_text
from cadena.model.file.project_file import encode, locate, read_app
from cadena.model.problem import Problem
from cadena.runs.walks.recording import walk_files
from cadena.runs.walks.walk import Walk, read_walk
from cadena.sources.open_project import Project, open_project
from cadena.sources.revisions import project_at


@contextmanager
def both(old: str, new: str, within: Path | None) -> Iterator[tuple[Project, Project]]:
    """Two versions of a project, opened: each a path, or a revision where the other lies.

    Raises:
        Problem: for what is neither.
    """
    places = [Path(each) for each in (old, new)]
    there = within or next((each for each in places if each.exists()), None)
    if there is None:
        wanted = "the path of a project; of two revisions, --in says where it lies"
        raise Problem(old, "", "there is no such project, nor one to look for revisions of", wanted)
    with TemporaryDirectory() as folder:
        made = []
        for number, (text, place) in enumerate(zip((old, new), places, strict=True)):
            if not place.exists():
                into = Path(folder) / str(number)
                place = project_at(text, locate(there).parent, into)
            made.append(open_project(place))
        yield made[0], made[1]


def walks_of(project: Project) -> dict[str, Walk]:
    """The walks of a project by name, but for those that cannot be read."""
    found: dict[str, Walk] = {}
    for file in walk_files(project.folder):
        try:
            found[file.stem] = read_walk(file)
        except Problem:
            continue
    return found


def joined(base: Path, ours: Path, theirs: Path) -> list[Conflict]:
    """Join three versions of a project file into ours; what is really in conflict is given.

    Raises:
        Problem: where one of them is no project, or they do not come to one.
    """
    was, mine, other = (tree_of(read_app(each)) for each in (base, ours, theirs))
    tree, conflicts = merged(was, mine, other)
    try:
        text = encode(msgspec.convert(tree, App))
    except (msgspec.ValidationError, ValueError) as error:
        why = f"they do not come to one project ({error})"
        raise Problem(ours.name, "", why, "a merge by hand") from None
    write_text(text, ours)
    return conflicts
