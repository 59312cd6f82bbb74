"""The sentence of each note, by its kind and case."""

from __future__ import annotations

from collections.abc import Mapping
from string import Formatter
from typing import Any, Final

from cadena.engine.notes import Note
from cadena.model.values import in_brief, words

SENTENCES: Final[Mapping[str, str]] = {
    "already open": "{screen} is already open with {arguments!a}",
    "answered/missing": "{source}: record {key!b}, call {call}, and it is not there",
    "answered/page": "{source}: page {page!p}, call {call}",
    "answered/record": "{source}: record {key!b}, call {call}",
    "arranged": "{old!o} to {new!o}, chain unchanged",
    "asked": "{question}",
    "asleep": "the process goes on",
    "awake": "as it was",
    "back": "{screen} is removed (rule {rule})",
    "back/slid list": "the list slides away (rule 4.1)",
    "back/to start": "to the start section, {section} (rule 4.6)",
    "back to": "{screen}, with what was typed in it (rule 9.1)",
    "brought": "{value!b} to {screen}, link {link} (rule 15)",
    "called/page": "{source}: page {page!p}, call {call}{due!d}",
    "called/record": "{source}: record {key!b}, call {call}{due!d}",
    "changed": "{source}: record {key!b}, {fields!l}",
    "changed/at the service": "{source}: record {key!b} changed at the service, {field} to {to!b}",
    "changed/field": "{source}: record {key!b}, {field} to {to!b}",
    "changed/several": "{source}: {field} of {count} records",
    "changed/went": "{source}: record {key!b} went at the service",
    "closed/by a press outside": "{screen} by a press outside (rule 2.5)",
    "closed/cancelled": "{screen} is cancelled",
    "closed/gone": "{screen} {key!b} is gone, and closed with what it had opened (rule 8)",
    "closed/gone meanwhile": "{count} of {all} entries of {section}: {screen} {key!b} has gone "
    "meanwhile (rule 8)",
    "closed/menu": "the menu",
    "closed/said": "what was said is put away",
    "closed/slid list": "the list slides away",
    "closed by rule": "{count} opened by rule in {section} went with its pane (rule 5.3)",
    "divided": "pane {pane!p} to {to:g} dp (rule 3.2)",
    "dropped/all": "{why!n}",
    "dropped/entries": "{count} of {all} entries of {section}: {why!n}",
    "dropped/section": "section {section} is not there any more",
    "dropped/unreadable": "{what} cannot be read ({error})",
    "dropped/value": "app-wide value {value} does not fit its type",
    "emptied": "{screen}",
    "failed/page": "{source}: page {page!p}, call {call}: {why}",
    "failed/record": "{source}: record {key!b}, call {call}: {why}",
    "fallback": "{address!c}: {why!n}; section {section} is shown instead",
    "filtered": "{part} keeps {key!b}",
    "filtered/all": "{part} keeps all",
    "forward": "to {screen}, as it was",
    "forward/to section": "to {section}, from which back had come",
    "given up": "{source}: record {key!b}: it is not sent any more (rule 9.1)",
    "group/already": "{group} is so already",
    "group/closed": "{group} closed",
    "group/opened": "{group} opened",
    "handed out": "{count} rows of {screen} as {form!u}",
    "left for": "{address!c}: the app waits as it is",
    "kept": "nothing is done",
    "killed": "{bytes} bytes are kept",
    "late/page": "{source}: page {page!p}, call {call}, came too late: nothing changes",
    "late/record": "{source}: record {key!b}, call {call}, came too late: nothing changes",
    "late/unknown": "answer {call} came, and nobody waits for it: nothing changes",
    "left": "the app is left; its chain stays as it is (rule 4.6)",
    "left out/cannot change": "{source}: record {key!b} is not there, and cannot change{count!m}",
    "left out/cannot go": "{source}: record {key!b} is not there, and cannot go{count!m}",
    "left out/no key": "{source}: a record came with the key {key!w}{count!m}",
    "left out/unfit": "{source}: record {key!b}, {field} cannot be {came!w}{count!m}",
    "let go": "nothing is picked any more",
    "marked": "row {key!b} is marked; Enter opens it",
    "moved on": "{screen} {key!b} is gone; {to!b} took its place",
    "not opened": "section {section}: {why!n}",
    "not opened by rule": "{why!n}",
    "not saved": "nothing is written: {faults!f}",
    "not sent": "{source}: the change stays in the app; nothing is sent to its service",
    "not written/gone": "{source}: record {key!b}, call {call}: it is not there any more",
    "not written/later": "{source}: record {key!b}, call {call}: to be sent again{due!d}",
    "not written/quicker": "{source}: record {key!b}, call {call}: somebody was quicker",
    "not written/refused": "{source}: record {key!b}, call {call}: refused {why} {faults!f}",
    "not written/unsent": "{source}: record {key!b}, call {call}: {why}",
    "opened": "{screen} with {arguments!a} as {how}, link {link}",
    "opened/by rule": "{screen} with {arguments!a} as {how}, by rule: nothing was chosen",
    "opened/in place": "{screen} with {arguments!a} in place of {old}",
    "page": "{page}",
    "picked": "{count} picked",
    "put back": "{source}: record {key!b}",
    "put back/several": "{source}: {count} records",
    "rebuilt": "the screens are made anew (rule 5.4)",
    "refreshed": "{source}: {changed} changed, {gone} gone, {new} new",
    "relaunched": "cold: only what is stored remains",
    "removed": "{source}: record {key!b}",
    "removed/several": "{source}: {count} records",
    "restored": "from what was kept",
    "said": "{text}",
    "saved": "{source}: record {key!b}",
    "saved/new": "{source}: new record {key!b}",
    "section/as it was left": "{section}, as it was left",
    "section/at its root": "{section}, at its root",
    "section/at the top": "{section}, its list at the top",
    "section/cut": "{section}, cut to its root",
    "sent/change": "{source}: record {key!b} to be changed, call {call}{due!d}",
    "sent/create": "{source}: a new record, call {call}{due!d}",
    "sent/remove": "{source}: record {key!b} to go, call {call}{due!d}",
    "settled/mine": "{fields!l}: what was typed counts (rule 9.1)",
    "settled/theirs": "{fields!l}: what is there counts (rule 9.1)",
    "set": "{value} to {to!b}",
    "set/marked": "{key!b} into {value}, now {count}",
    "set/several marked": "{picked} into {value}, now {count}",
    "set/several unmarked": "{picked} out of {value}, now {count}",
    "set/unmarked": "{key!b} out of {value}, now {count}",
    "shares": "{asked!s} of the room were asked for, and {came!s} came (rule 3.2)",
    "started": "anew",
    "visited": "{address!c}: {screens!l}",
    "window/read": "text at {text:.0%}, read from the {side}",
    "window/resized": "{old[0]:g} × {old[1]:g} to {new[0]:g} × {new[1]:g}",
    "window/shown": "{name}",
    "written/change": "{source}: record {key!b}, call {call}: it is changed",
    "written/create": "{source}: record {key!b}, call {call}: it is made",
    "written/remove": "{source}: record {key!b}, call {call}: it is gone",
    "refused/action not linked": 'action "{part}" opens nothing yet: link it to a screen',
    "refused/app is asleep": "the app is asleep: wake it first",
    "refused/app is killed": "the app is ended: restore or relaunch it first",
    "refused/app is left": "the app is left: wake or relaunch it first",
    "refused/app is running": "the app is running already",
    "refused/argument missing": "{who!h}: parameter {parameter} is required; nothing came, "
    "{wanted} was wanted",
    "refused/argument unfit": "{who!h}: parameter {parameter}: {came!w} came, {wanted} was wanted",
    "refused/being sent": "it is being sent: wait for the answer",
    "refused/brings nowhere": "link {link} brings what is chosen to nothing that there is",
    "refused/button not linked": 'button "{part}" opens nothing yet: link it to a screen',
    "refused/covered": '"{title}" lies over it: close it first',
    "refused/divider is fixed": "the dividers of this arrangement stay where they are",
    "refused/entry unreadable": "an entry cannot be read ({error})",
    "refused/fact not linked": 'fact "{part}" opens nothing yet: link it to a screen',
    "refused/field not linked": 'field "{part}" opens nothing yet: link it to a list',
    "refused/field not set": "{field} is no field that can be set",
    "refused/field unfit": "field {field}: {came!w} came, {wanted} was wanted",
    "refused/from a list only": "this can be done from a list only",
    "refused/groups are closed": "all groups of the list are closed",
    "refused/groups are searched": "while it is searched all groups are open",
    "refused/groups stay": "the groups of this list do not open and close",
    "refused/kept state unreadable": "what was kept cannot be read ({error}); the app starts anew",
    "refused/key stays": "field {field} is the key, and a key does not change",
    "refused/list is empty": "the list has no rows",
    "refused/no fallback": "{address!c}: {why!n}; and there is no section to fall back to",
    "refused/no fold": "this window does not fold",
    "refused/no form": "{screen} is no form",
    "refused/no list to slide": "there is no list to slide over (rule 3.3)",
    "refused/no marked row": "no row is marked",
    "refused/no menu is open": "no menu is open",
    "refused/no neighbour": "there is no row beside its own that it could go on to",
    "refused/no next key": "no key can be made for a new record: {field} is of type {type}, and "
    "there is no next one",
    "refused/no popover": "no popover is open",
    "refused/no question is asked": "no question is asked",
    "refused/no record here": "there is no record that this could be done to",
    "refused/no row actions": "its rows have no actions",
    "refused/no rows to pick": "there are no rows to pick",
    "refused/no rows to save": "there are no rows to save",
    "refused/no search": "this list has no search fields",
    "refused/no such divider": "there is no divider after pane {pane!p} that can be moved",
    "refused/no such field": "there is no field {field}",
    "refused/no such group": "there is no group {group}",
    "refused/no such marks": "there is no app-wide list {value} to mark in",
    "refused/no orders": "the list offers no orders",
    "refused/no address there": "{field} holds no address that the app can be left for",
    "refused/no such order": "there is no field {field} to sort by",
    "refused/no such record": "{source} has no record {key!b}",
    "refused/no such section": "there is no section {section}",
    "refused/no such source": "there is no source {source}",
    "refused/no such target": "link {link} opens {screen}, and there is no such screen",
    "refused/no such value": "there is no app-wide value {value}",
    "refused/no template": "no template matches it",
    "refused/no way": "no path of links leads to {screen} with what it gives",
    "refused/not for several": "this is not done to several at once",
    "refused/nothing is picked": "nothing is picked",
    "refused/nothing is unsent": "there is nothing that was not sent",
    "refused/nothing to settle": "there is nothing to settle here",
    "refused/nothing was typed": "nothing was typed for it in a form",
    "refused/nothing is said": "nothing is said that could be put away",
    "refused/nothing ahead": "there is nothing to go forward to",
    "refused/nothing can take this": "a screen that can take this is not on display",
    "refused/nothing was removed": "nothing was removed that could be put back",
    "refused/opened oddly": "{screen} was opened as {how} at depth {depth}",
    "refused/parameter is gone": "{screen} has no parameter {parameter} any more",
    "refused/question is asked": "a question is asked: answer it first",
    "refused/record is gone": "{source} has no record {key!b} any more",
    "refused/row not listed": "row {key!b} is not on the list",
    "refused/row not on strip": "{key!b} is not on the strip",
    "refused/row not shown": "the list does not show row {key!b}",
    "refused/rows are picked": "rows are picked: let them go first",
    "refused/rows not linked": "its rows open nothing yet: link it to a screen",
    "refused/screen is gone": "screen {screen} is not there any more",
    "refused/screen not on display": "screen {screen} is not on display",
    "refused/scroll to nothing": 'a scroll needs "by", "to" or "row"',
    "refused/section bar is shown": "the section bar is not behind a button here",
    "refused/sections are covered": '"{title}" lies over the section bar: close it first',
    "refused/somebody was quicker": "somebody was quicker: say first whose counts",
    "refused/strip goes across": "a strip goes left and right",
    "refused/strip is empty": "the strip is empty",
    "refused/text size": "text is set from 56 % to 300 %, not {size:.0%}",
    "refused/value unfit": "{value}: {came!w} came, {wanted} was wanted",
    "refused/wait too long": "a wait is 0 to {most} ms, not {ms}",
    "refused/window cannot be": "{fault}",
}

WHO: Final[Mapping[str, str]] = {
    "address": "the address",
    "link": "link {0} to {1}",
    "root": "root {0}",
    "saved": "{0} as saved",
}
"""Who fills in a parameter, by the first of what a note says of it."""

ADDRESS_SHOWN: Final = 60


def in_words(note: Note) -> str:
    """The sentence that tells a person what a note says."""
    name = f"{note.kind}/{note.case}" if note.case else note.kind
    return _SAID.vformat(SENTENCES[name], (), note.data)


class _Said(Formatter):
    """Fills the sentences in; a letter after ``!`` says how a value is told."""

    def convert_field(self, value: Any, conversion: str | None) -> Any:
        if conversion is None:
            return value
        return _TOLD[conversion](value)


def _who(who: tuple[str, ...]) -> str:
    return WHO[who[0]].format(*who[1:])


def _arguments(arguments: Mapping[str, Any]) -> str:
    told = (
        f"{name} = {words(value) if isinstance(value, str) else in_brief(value)}"
        for name, value in arguments.items()
    )
    return ", ".join(told) or "no arguments"


_TOLD: Final[Mapping[str, Any]] = {
    "a": _arguments,
    "b": in_brief,
    "c": lambda text: text if len(text) <= ADDRESS_SHOWN else f"{text[:ADDRESS_SHOWN]}…",
    "d": lambda due: "" if due is None else f", due at {due} ms",
    "f": lambda faults: "; ".join(f"{name} {why}" for name, why in faults.items()),
    "h": _who,
    "l": ", ".join,
    "m": lambda count: f", and {count - 1} more" if count > 1 else "",
    "n": in_words,
    "o": lambda arrangement: arrangement or "one pane",
    "p": lambda page: str(page + 1),
    "s": lambda shares: " and ".join(f"{each * 100:g} %" for each in shares),
    "u": str.upper,
    "w": words,
}
_SAID: Final = _Said()
