"""Reads roster.ini."""
import configparser


def read(text):
    parser = configparser.ConfigParser()
    parser.read_string(text)
    return dict(parser["roster"])
