"""What is to become of a part that routes drag along."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.core.crossing.parts import PartChoice, PartKey
from yoake.core.values.errors import NotFound
from yoake.store.crossing_parts import part_choices, part_graph, put_part_choice
from yoake.usecases.cross import find_crossing, note


def choose_part(context: Context, slug: str, key: PartKey, choice: PartChoice, who: str, why: str) -> None:
    """What is to become of a part of the old side, for every route that reaches it. Raises NotFound for one that is not there."""
    crossing = find_crossing(context, slug)
    graph = part_graph(context.db, crossing.application_id)
    if not any(node.part.file == key.file and node.part.name == key.name for node in graph.nodes):
        raise NotFound(f"No route reaches “{key.name}” in {key.file}.")
    before = part_choices(context.db, crossing.application_id).get(key, PartChoice.BRING)
    with context.db.write() as connection:
        put_part_choice(connection, crossing.application_id, key, choice)
        note(
            connection,
            context,
            crossing.application_id,
            who,
            f"{key.name} in {key.file}",
            "what becomes of it on the new side",
            why=why,
            before=before.value,
            after=choice.value,
        )
