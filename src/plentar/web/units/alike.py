"""Parts that are alike, and one correction for all of them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from plentar.core.unit.unit import Unit
from plentar.files.unit_json import unit_to_json
from plentar.web.units.plate_fields import FIELDS, changed_unit, locate, read_value

#: What says which part it is and where it hangs; a correction of all alike leaves it.
OWN = frozenset({"circuit", "role"})


def alike(unit: Unit, part: str) -> tuple[str, ...]:
    """The other parts of a strip's, switch's or limit's kind; a switch's are those that work as it does."""
    if part in unit.element_by_id:
        every: Iterable[str] = unit.element_by_id
    elif part in unit.switch_by_id:
        role = unit.switch_by_id[part].role
        every = [s.id for s in unit.switch_by_id.values() if s.role == role]
    else:
        every = [limit.id for limit in unit.limits]
        every = every if part in every else ()
    return tuple(one for one in every if one != part)


def all_changed(unit: Unit, part: str, typed: Mapping[str, str]) -> Unit:
    """The unit with what was changed of a part changed of all alike; raises BadInput as ``changed_unit``."""
    kind, _, thing = locate(unit_to_json(unit), part)
    changed = {
        field.name: typed[field.name]
        for field in FIELDS[kind]
        if field.name not in OWN
        and field.name in typed
        and typed[field.name].strip() != read_value(thing, field)
    }
    for one in (part, *alike(unit, part)):
        unit = changed_unit(unit, one, typed if one == part else changed)
    return unit
