/** Which rows the Horizon shows, in which order and groups. */
import type { Row } from "../../api/types";

export type Sort = "margin" | "name" | "arrival" | "clear";
export type Grouping = "none" | "team" | "destination" | "owner";
export type Line = { kind: "head"; title: string; count: number } | { kind: "row"; row: Row };

/** Every word, or "quoted words", must occur in what the row says; `team:` and the like narrow to one field. */
export function matches(row: Row, text: string): boolean {
  const words = (text.toLowerCase().match(/\w+:"[^"]*"|"[^"]*"|\S+/g) ?? []).map((word) => word.replaceAll('"', ""));
  const stood = row.today.map((line) => `${line.name} ${line.line}`).join(" ");
  const fields: Record<string, string> = { team: row.team, owner: row.owner, destination: row.destination, name: row.name };
  const all = [row.name, row.slug, row.team, row.owner, row.destination, stood, row.languages.join(" "), words_of(row)].join(" ").toLowerCase();
  return words.every((word) => {
    const [field, value] = word.split(":", 2);
    const narrowed = field && value ? fields[field] : undefined;
    return narrowed === undefined ? all.includes(word) : narrowed.toLowerCase().includes(value ?? "");
  });
}

function words_of(row: Row): string {
  if (row.state !== "ready") return row.state;
  if (row.arrived) return "arrived";
  return row.unsupported_since ? "dark unsupported" : row.clear === null ? "unknown" : "supported";
}

const last = (value: string | number | null): string | number => value ?? (typeof value === "string" ? "\uffff" : Number.MAX_SAFE_INTEGER);

export function sorted(rows: Row[], sort: Sort): Row[] {
  if (sort === "margin") return rows;
  const key: Record<Exclude<Sort, "margin">, (row: Row) => string | number> = {
    name: (row) => row.name.toLowerCase(),
    arrival: (row) => row.arrival80 ?? "9999",
    clear: (row) => last(row.clear),
  };
  const by = key[sort];
  return [...rows].sort((a, b) => (by(a) < by(b) ? -1 : by(a) > by(b) ? 1 : a.name.localeCompare(b.name)));
}

export function grouped(rows: Row[], grouping: Grouping): Line[] {
  if (grouping === "none") return rows.map((row) => ({ kind: "row", row }));
  const groups = new Map<string, Row[]>();
  for (const row of rows) {
    const name = row[grouping] || `no ${grouping}`;
    groups.set(name, [...(groups.get(name) ?? []), row]);
  }
  return [...groups].flatMap(([title, held]): Line[] => [{ kind: "head", title, count: held.length }, ...held.map((row): Line => ({ kind: "row", row }))]);
}
