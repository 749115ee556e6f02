"""Finds by what people remember."""


def search(items, words):
    return [item for item in items if all(word in item.what for word in words)]
