"""Reads roster.ini."""
import configparser
import io


def read(text):
    parser = configparser.SafeConfigParser()
    parser.readfp(io.StringIO(text))
    return dict(parser["roster"])
