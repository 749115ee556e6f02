/** Two people changed one step: what does not collide is put together, the rest is theirs to decide. */
export type Fields = { owner: string; due: string; note: string };
export type Field = keyof Fields;

export const FIELDS: Field[] = ["owner", "due", "note"];

/** ``base`` is what both began with. A field that only one of them changed is that one's; ``collisions`` are the others. */
export function merge(base: Fields, mine: Fields, theirs: Fields): { merged: Fields; collisions: Field[] } {
  const collisions = FIELDS.filter((field) => mine[field] !== base[field] && theirs[field] !== base[field] && mine[field] !== theirs[field]);
  const pick = (field: Field) => (mine[field] === base[field] ? theirs[field] : mine[field]);
  return { merged: { owner: pick("owner"), due: pick("due"), note: pick("note") }, collisions };
}
