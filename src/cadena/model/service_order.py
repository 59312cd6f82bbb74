"""How a service is asked for an order."""

from __future__ import annotations

from cadena.model.listing import Sort
from cadena.model.source import Service


def sort_asked(service: Service, sort: tuple[Sort, ...]) -> dict[str, str]:
    """The query parameters that ask for an order; none where the service cannot be asked for it."""
    if not service.sort or not sort:
        return {}
    first = sort[0]
    minus = "-" if first.descending and not service.order else ""
    value = f"{minus}{first.field}"
    if service.sorts and value not in service.sorts:
        return {}
    asked = {service.sort: value}
    if service.order:
        upwards, downwards = service.order_words
        asked[service.order] = downwards if first.descending else upwards
    return asked
