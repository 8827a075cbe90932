"""luxpy's reader of photometric files, the general-purpose one we compare with, loaded by itself.

The package as a whole does not import beside current numpy; its reader needs only three names from
it.
"""

import importlib.util
import sys
import types
from pathlib import Path


def load_reader():
    """The module luxpy.toolboxes.iolidfiles.io_lid_files."""
    folder = Path(importlib.util.find_spec("luxpy").submodule_search_locations[0])
    package, utils = types.ModuleType("luxpy"), types.ModuleType("luxpy.utils")
    utils._PKG_PATH, utils._SEP, utils.imsave = str(folder), "/", None
    names = {"luxpy": package, "luxpy.utils": utils}
    before = {name: sys.modules.get(name) for name in names}
    sys.modules.update(names)
    try:
        spec = importlib.util.spec_from_file_location(
            "lid_reader", folder / "toolboxes/iolidfiles/io_lid_files.py"
        )
        reader = importlib.util.module_from_spec(spec)
        spec.loader.exec_module(reader)
    finally:
        for name, module in before.items():
            if module is None:
                del sys.modules[name]
            else:
                sys.modules[name] = module
    return reader


reader = load_reader()
