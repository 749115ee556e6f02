/** Changes to a selection: what collides with somebody else's, and how a change is taken back. */
import type { Changed, Edited, Row } from "../../api/types";

export type Field = "owner" | "team" | "destination" | "days_per_week";
export const LABELS: Record<Field, string> = { owner: "owner", team: "team", destination: "destination", days_per_week: "days a week" };

export const wordsOf = (record: Edited | Row, field: Field): string => String(record[field] ?? "");

/** Each row once: windows of other filters may still hold it as it was before. */
export function newest(rows: Row[]): Row[] {
  const held = new Map<string, Row>();
  for (const row of rows) {
    const known = held.get(row.slug);
    if (known === undefined || known.version < row.version) held.set(row.slug, row);
  }
  return [...held.values()];
}

/** Those on which somebody set the same field, to something else than was seen here and than is to be set. */
export function colliding(seen: Row[], current: Edited[], field: Field, value: string): Edited[] {
  return current.filter((now) => {
    const row = seen.find((r) => r.slug === now.slug);
    const theirs = wordsOf(now, field);
    const untouched = row === undefined || theirs === wordsOf(row, field) || now[field] === null;
    return !untouched && theirs !== value;
  });
}

type Body = { applications: string[]; versions: Record<string, number> } & Partial<Record<Field, string | number | null>>;

/** What to send to bring a field back to what it was, applications of one value together. */
export function takenBack(changes: Changed["changes"], field: Field): Body[] {
  const byValue = new Map<string | number | null, Body>();
  for (const { before, after } of changes) {
    const body = byValue.get(before[field]) ?? { applications: [], versions: {}, [field]: before[field] };
    body.applications.push(after.slug);
    body.versions[after.slug] = after.version;
    byValue.set(before[field], body);
  }
  return [...byValue.values()];
}
