"""What lies behind: scenes of some parts, one file each. Importing this package fills the table of backdrops."""

import importlib
import pkgutil

for _module in pkgutil.iter_modules(__path__):
    importlib.import_module(f"{__name__}.{_module.name}")
