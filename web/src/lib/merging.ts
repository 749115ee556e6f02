/** Two people changed one record: what does not collide is put together, the rest is theirs to decide. */
export type Fields<F extends string> = Record<F, string>;

/** ``base`` is what both began with. A field that only one of them changed is that one's; ``collisions`` are the others. */
export function merge<F extends string>(base: Fields<F>, mine: Fields<F>, theirs: Fields<F>): { merged: Fields<F>; collisions: F[] } {
  const fields = Object.keys(base) as F[];
  const collisions = fields.filter((field) => mine[field] !== base[field] && theirs[field] !== base[field] && mine[field] !== theirs[field]);
  const merged = { ...mine };
  for (const field of fields) if (mine[field] === base[field]) merged[field] = theirs[field];
  return { merged, collisions };
}
