"""The nodes, one decorated function each, one file a group. Importing this package fills the catalogue."""

import importlib
import pkgutil

for _module in pkgutil.iter_modules(__path__):
    importlib.import_module(f"{__name__}.{_module.name}")
