"""Assistive technology: every control of every stage has a name, a role, a state and a value."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtWidgets import QApplication

from cadena.desktop.document.stages import stages
from test_desktop import Person, person

__all__ = ["person"]
PRESSED = {
    QAccessible.Role.PushButton,
    QAccessible.Role.CheckBox,
    QAccessible.Role.RadioButton,
    QAccessible.Role.EditableText,
    QAccessible.Role.ButtonMenu,
    QAccessible.Role.Slider,
    QAccessible.Role.Table,
    QAccessible.Role.List,
}


def told(of: QAccessibleInterface, depth: int = 0) -> Iterator[QAccessibleInterface]:
    """Everything that is told, from the window in; not the cells of tables."""
    yield of
    if depth > 24 or of.role() in (QAccessible.Role.Table, QAccessible.Role.List):
        return
    for number in range(of.childCount()):
        child = of.child(number)
        if child is not None and child.isValid() and not child.state().invisible:
            yield from told(child, depth + 1)


@pytest.mark.parametrize("stage", [each.name for each in stages()])
def test_every_control_of_a_stage_is_told(person: Person, stage: str) -> None:
    person.window.go_to_stage(stage)
    QApplication.processEvents()
    interface = QAccessible.queryAccessibleInterface(person.window)
    assert interface is not None
    controls = [each for each in told(interface) if each.role() in PRESSED]
    assert len(controls) > 15
    for each in controls:
        name = each.text(QAccessible.Text.Name)
        assert name, f"{each.role()} at {each.rect()} has no name"
        if each.role() == QAccessible.Role.EditableText:
            assert each.textInterface() is not None or each.text(QAccessible.Text.Value) is not None
        elif each.role() in (QAccessible.Role.PushButton, QAccessible.Role.CheckBox):
            assert each.actionInterface() is not None, name
            # A choice says whether it is made.
            assert each.state().checkable or not each.state().checked, name
    focusable = [each for each in controls if each.state().focusable]
    assert len(focusable) * 2 > len(controls)
