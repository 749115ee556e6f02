"""Predicted levels, from the printed almanac."""
import fractions
import inspect
import xml.etree.cElementTree as ET


def period(a, b):
    return a * b // fractions.gcd(a, b)


def columns(reader):
    return inspect.getargspec(reader).args


def levels(text):
    return [float(node.text) for node in ET.fromstring(text).getchildren()]
