"""Finds plug-ins by name."""
import pkgutil

try:
    from importlib import metadata
except ImportError:
    metadata = None


def found(name):
    return pkgutil.find_loader(name) is not None


def version(name):
    if metadata is None:
        return None
    try:
        return metadata.version(name)
    except metadata.PackageNotFoundError:
        return None
