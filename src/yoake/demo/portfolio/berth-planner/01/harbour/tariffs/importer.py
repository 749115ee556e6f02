"""Reads tariff plug-ins that pilots drop into a folder."""
import imp
import os
from distutils.version import LooseVersion


def load_plugin(path):
    return imp.load_source(os.path.splitext(os.path.basename(path))[0], path)


def newer(left, right):
    return LooseVersion(left) > LooseVersion(right)
