"""What is on a screen: its lists, buttons, row actions and triggers."""

from __future__ import annotations

from collections.abc import Iterator

from cadena.model.app import (
    DetailScreen,
    FormScreen,
    ListScreen,
    Parameter,
    Screen,
    Slot,
    Trigger,
)
from cadena.model.blocks import ActionsBlock, FactsBlock, ListBlock, PageBlock
from cadena.model.listing import Button, Follow, Listing
from cadena.model.once import once


@once
def listings(screen: Screen) -> dict[str, Listing]:
    """Every list on a screen, by its trigger part; that of a list screen comes last."""
    if isinstance(screen, ListScreen):
        return {**{block.id: block.rows for block in screen.above}, "": screen.rows}
    if isinstance(screen, FormScreen):
        return {}
    return {block.id: block.rows for block in screen.blocks if isinstance(block, ListBlock)}


@once
def buttons(screen: Screen) -> dict[str, Button]:
    """Every button on a screen, by its identifier."""
    if isinstance(screen, ListScreen):
        return {button.id: button for button in screen.buttons}
    if isinstance(screen, FormScreen):
        return {}
    return {
        button.id: button
        for block in screen.blocks
        if isinstance(block, ActionsBlock)
        for button in block.buttons
    }


@once
def actions(screen: Screen) -> dict[str, tuple[str, Button]]:
    """Every row action on a screen by its identifier, with the list that it is of."""
    return {
        button.id: (part, button)
        for part, listing in listings(screen).items()
        for button in listing.actions
    }


def every_button(screen: Screen) -> Iterator[tuple[str | None, Button]]:
    """Every button and row action of a screen, with the list that it is of, if it is of one."""
    yield from ((None, each) for each in buttons(screen).values())
    yield from actions(screen).values()


def facts_that_open(screen: Screen) -> tuple[str, ...]:
    """The facts of a screen that are triggers: references that open what they refer to (13)."""
    blocks = screen.blocks if isinstance(screen, DetailScreen) else ()
    facts = (block for block in blocks if isinstance(block, FactsBlock))
    return tuple(name for block in facts for name in _opening(block))


def facts_that_leave(screen: Screen) -> tuple[str, ...]:
    """The facts of a screen for whose addresses the app is left (7.10)."""
    blocks = screen.blocks if isinstance(screen, DetailScreen) else ()
    facts = (block for block in blocks if isinstance(block, FactsBlock))
    return tuple(name for block in facts for name in block.leaves if name in block.fields)


@once
def choosing(screen: Screen) -> frozenset[str]:
    """The strips of a screen whose choice filters another list of it (7.5)."""
    lists = listings(screen)
    filtering = {
        where.choice
        for part, listing in lists.items()
        for where in listing.where
        if where.choice != part
    }
    return frozenset(part for part, each in lists.items() if each.layout == "strip") & filtering


@once
def triggers(screen: Screen) -> tuple[Trigger, ...]:
    """Everything on a screen that a link can start from, in the order it is shown."""
    if isinstance(screen, FormScreen):
        opening = (each.field for each in screen.fields if each.opens)
        fields = (Trigger(screen=screen.id, on="field", part=each) for each in opening)
        return (*fields, Trigger(screen=screen.id, on="saved"))
    if isinstance(screen, ListScreen):
        found = [_button(screen, each) for each in screen.buttons if _follows(each)]
        for strip in screen.above:
            found += _of_list(screen, strip.id, strip.rows)
        return (*found, *_of_list(screen, "", screen.rows))
    found = []
    for block in screen.blocks:
        if isinstance(block, ListBlock):
            found += _of_list(screen, block.id, block.rows)
        elif isinstance(block, ActionsBlock):
            found += [_button(screen, each) for each in block.buttons if _follows(each)]
        elif isinstance(block, FactsBlock):
            found += [Trigger(screen=screen.id, on="fact", part=e) for e in _opening(block)]
    return tuple(found)


def could_start(screen: Screen) -> tuple[Trigger, ...]:
    """Everything that a link starts from, or could: a field of a form that is one of the records
    of a source can open a list of them (rules.md, 15)."""
    found = triggers(screen)
    if not isinstance(screen, FormScreen):
        return found
    more = (each.field for each in screen.fields if each.choices_from and not each.opens)
    return (*(Trigger(screen=screen.id, on="field", part=each) for each in more), *found)


def _opening(block: FactsBlock) -> Iterator[str]:
    return (each for each in block.fields if each in block.opens)


def _of_list(screen: Screen, part: str, listing: Listing) -> list[Trigger]:
    if part in choosing(screen):
        return []
    rows = [Trigger(screen=screen.id, part=part)]
    return rows + [
        Trigger(screen=screen.id, on="action", part=action.id)
        for action in listing.actions
        if _follows(action)
    ]


def _button(screen: Screen, button: Button) -> Trigger:
    return Trigger(screen=screen.id, on="button", part=button.id)


def _follows(button: Button) -> bool:
    return isinstance(button.does, Follow)


def label_of(screen: Screen, trigger: Trigger) -> str:
    """A trigger in words: the label of the button or action that it is, row, after saving."""
    if trigger.on == "row":
        return f"row of {trigger.part}" if trigger.part else "row"
    if trigger.on == "saved":
        return "after saving"
    if trigger.on in ("fact", "field"):
        return trigger.part
    if trigger.on == "action":
        found = actions(screen).get(trigger.part)
        return trigger.part if found is None else found[1].label
    button = buttons(screen).get(trigger.part)
    return trigger.part if button is None else button.label


def source_shown(screen: Screen) -> str:
    """The source whose records a screen is about."""
    return screen.rows.source if isinstance(screen, ListScreen) else screen.source


def opens_with(screen: Screen) -> Parameter | None:
    """The parameter that carries the key of the record of a detail or form, if declared."""
    if isinstance(screen, ListScreen):
        return None
    return next((each for each in screen.parameters if each.name == screen.key), None)


def pages(screen: Screen) -> tuple[PageBlock, ...]:
    """The pages that a detail is split into; none for most."""
    if not isinstance(screen, DetailScreen):
        return ()
    return tuple(block for block in screen.blocks if isinstance(block, PageBlock))


def page_of(screen: Screen, part: str) -> str:
    """The page of a detail that a block stands on; nothing for what stands on all of them."""
    found = ""
    for block in screen.blocks if isinstance(screen, DetailScreen) else ():
        if isinstance(block, PageBlock):
            found = block.id
        elif block.id == part:
            return found
    return ""


def slots_of(listing: Listing) -> tuple[Slot, ...]:
    """The slots of a row that show something."""
    slots: tuple[Slot, ...] = ("picture", "title", "subtitle", "badge")
    return tuple(slot for slot in slots if getattr(listing.row, slot))


def slots_from(screen: Screen | None, trigger: Trigger) -> tuple[Slot, ...]:
    """What can fly from a trigger: the slots of its row, or of a fact what it says."""
    if screen is None:
        return ()
    if trigger.on == "fact":
        blocks = screen.blocks if isinstance(screen, DetailScreen) else ()
        facts = (each for each in blocks if isinstance(each, FactsBlock))
        return ("title",) if any(trigger.part in each.opens for each in facts) else ()
    listing = listings(screen).get(trigger.part) if trigger.on == "row" else None
    return () if listing is None else slots_of(listing)


def elements_of(screen: DetailScreen) -> tuple[str, ...]:
    """The elements of a detail that something can fly to: its title, and its blocks."""
    blocks = (e.id for e in screen.blocks if not isinstance(e, PageBlock | ActionsBlock))
    return ("title", *blocks)
