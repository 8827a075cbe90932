"""prysm, the general-purpose optics package we compare with, made to import beside current
setuptools.

It asks `pkg_resources`, which setuptools no longer ships, for its own version and nothing else.
"""

import importlib.metadata
import sys
import types

if "pkg_resources" not in sys.modules:
    stand_in = types.ModuleType("pkg_resources")
    stand_in.get_distribution = importlib.metadata.distribution
    stand_in.DistributionNotFound = importlib.metadata.PackageNotFoundError
    sys.modules["pkg_resources"] = stand_in

from prysm.experimental.raytracing.spencer_and_murty import raytrace
from prysm.experimental.raytracing.surfaces import Surface

__all__ = ["Surface", "raytrace"]
