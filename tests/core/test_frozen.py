"""What the core says is not changed once it is said: every record of its is frozen, but those that
keep a count of their own.
"""

import dataclasses
import importlib
import inspect
import pkgutil

import cold_arc.core

COUNTS = {"_Ledger"}


def records():
    for module in pkgutil.walk_packages(cold_arc.core.__path__, "cold_arc.core."):
        kinds = filter(inspect.isclass, vars(importlib.import_module(module.name)).values())
        own = (kind for kind in kinds if kind.__module__ == module.name)
        yield from filter(dataclasses.is_dataclass, own)


def test_no_record_of_the_cores_is_changed_once_it_is_made():
    loose = {kind.__name__ for kind in records() if not kind.__dataclass_params__.frozen}
    assert loose == COUNTS
