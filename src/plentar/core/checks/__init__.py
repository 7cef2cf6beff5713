"""A registry of small checks: each finds something, is clear, or says why it could not be judged.

A new check is a function here, in a file of its own or beside its like, under ``@check``.
"""

from importlib import import_module
from pkgutil import iter_modules

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")
