
def arguments_of(route: Route) -> dict[str, Any]:
    """The arguments of a route by the names of their parameters."""
    named = ((name, getattr(route, attribute)) for attribute, name, _, _ in route.FIELDS)
    return {name: value for name, value in named if value is not None}


def address_of(route: Route) -> str | None:
    """The address of a route; None where its screen has none, or a value of it is missing."""
    words = {name: word(value) for name, value in arguments_of(route).items()}
    for template, screen in ADDRESSES:
        address = told(template, words) if screen == route.SCREEN else None
        if address is not None:
            return address
    return None


def route_at(address: str) -> Route | None:
    """The route that an address leads to; None where there is none."""
    for template, screen in ADDRESSES:
        words = read(template, address)
        if words is None:
            continue
        try:
            kinds = {name: kind for _, name, kind, _ in SCREENS[screen].FIELDS}
            given = {n: value_of(words[n], kind) for n, kind in kinds.items() if n in words}
            return route_of(screen, given)
        except ValueError:
            continue
    return None


def route_of(screen: str, given: dict[str, Any]) -> Route:
    """A route of what came.

    Raises:
        ValueError: where there is no such screen, or an argument does not fit.
    """
    made = SCREENS.get(screen)
    if made is None:
        raise ValueError(f"there is no screen {screen!r}")
    if set(given) - {name for _, name, _, _ in made.FIELDS}:
        raise ValueError(f"{screen!r} takes no such arguments: {sorted(given)}")
    filled: dict[str, Any] = {}
    for attribute, name, kind, required in made.FIELDS:
        value = given.get(name)
        if value is not None:
            filled[attribute] = checked(value, kind)
        elif required:
            raise ValueError(f"{screen!r} needs {name!r}")
    route: Route = made(**filled)
    return route


@dataclass
class Entry:
    """One open screen as it is saved; what else is kept of it stays as it came."""

    route: Route
    opened: str = "push"
    rest: dict[str, Any] = field(default_factory=dict)


@dataclass
class Chain:
    section: str
    entries: list[Entry]
    asked: bool = False


@dataclass
class SavedState:
    section: str = ""
    chains: list[Chain] = field(default_factory=list)
    values: dict[str, Any] = field(default_factory=dict)
    stored: list[Any] = field(default_factory=list)


def write_saved(state: SavedState) -> str:
    """What is saved, as JSON text."""

    def entry(each: Entry) -> dict[str, Any]:
        said = {"screen": each.route.SCREEN, "arguments": arguments_of(each.route)}
        return {**each.rest, **said, "opened": each.opened}

    chains = [
        {"section": c.section, "entries": [entry(e) for e in c.entries], "asked": c.asked}
        for c in state.chains
    ]
    tree = {"section": state.section, "chains": chains}
    return json.dumps({**tree, "values": state.values, "stored": state.stored})


def read_saved(text: str) -> SavedState:
    """What was saved, trusting nothing: an entry that does not fit is dropped with those after."""
    try:
        came = json.loads(text)
    except ValueError:
        return SavedState()
    if not isinstance(came, dict):
        return SavedState()
    chains = [_chain(each) for each in _as_list(came.get("chains")) if isinstance(each, dict)]
    values = came.get("values")
    return SavedState(
        str(came.get("section", "")),
        chains,
        values if isinstance(values, dict) else {},
        _as_list(came.get("stored")),
    )


def _as_list(came: Any) -> list[Any]:
    return came if isinstance(came, list) else []


def _chain(came: dict[str, Any]) -> Chain:
    chain = Chain(str(came.get("section", "")), [], came.get("asked") is True)
    for entry in _as_list(came.get("entries")):
        try:
            route = route_of(entry["screen"], dict(entry.get("arguments", {})))
        except (ValueError, TypeError, KeyError, AttributeError):
            break
        known = ("screen", "arguments", "opened")
        rest = {name: value for name, value in entry.items() if name not in known}
        chain.entries.append(Entry(route, str(entry.get("opened", "push")), rest))
    return chain
