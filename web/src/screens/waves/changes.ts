/** Changes of a what-if as a person writes them, one at a time: what they are called, and how they are put together. */
import type { WhatIf } from "../../api/types";

export type Kind = keyof WhatIf;
export type Line = { kind: Kind; index: number; words: string };

export const EMPTY: WhatIf = {};

type Value = string | number | Record<string, unknown>;

const held = (changes: WhatIf, kind: Kind): Value[] => (changes[kind] ?? []) as Value[];

/** The same with one more change. */
export function added(changes: WhatIf, kind: Kind, value: Value): WhatIf {
  return { ...changes, [kind]: [...held(changes, kind), value] };
}

/** The same without one of its changes. */
export function removed(changes: WhatIf, line: Line): WhatIf {
  return { ...changes, [line.kind]: held(changes, line.kind).filter((_, i) => i !== line.index) };
}

const KINDS: Kind[] = ["capacity", "features", "drop", "bought", "strategy", "destination", "first", "fixed", "dates", "freezes"];

/** Every change in words, with where it stands. */
export function lines(changes: WhatIf): Line[] {
  return KINDS.flatMap((kind) => held(changes, kind).map((value, index) => ({ kind, index, words: worded(kind, value) })));
}

function worded(kind: Kind, value: Value): string {
  const at = (name: string) => (typeof value === "object" ? String(value[name] ?? "") : String(value));
  const since = at("since") ? ` from ${at("since")}` : "";
  switch (kind) {
    case "capacity":
      return at("days") === "0" ? `${at("person")} leaves ${at("team")}` : `${at("person") || "one more person"} in ${at("team")}, ${at("days")} d a week${since}`;
    case "features":
      return `features take ${Math.round(Number(at("share")) * 100)} % in ${at("team")}`;
    case "drop":
      return `without ${at("")}`;
    case "first":
      return `${at("")} first`;
    case "bought":
      return `${at("name")} bought: ${at("days")} d for ${at("team")}`;
    case "strategy":
      return `${at("application")} by “${at("choice")}”`;
    case "destination":
      return `${at("application")} to ${at("destination")}`;
    case "fixed":
      return `${at("application")} ${at("stage")} on ${at("begins")}`;
    case "dates":
      return `${at("coordinate")} ${at("line")} supported until ${at("end")}`;
    case "freezes":
      return `${at("title") || "freeze"} ${at("first")} to ${at("last")}`;
  }
}

/** Days of two plans on one scale: 0 is today, 1 the last of them all. */
export function onScale(today: string, days: (string | null | undefined)[]): (day: string | null | undefined) => number | null {
  const start = Date.parse(today);
  const last = Math.max(start + 1, ...days.flatMap((d) => (d ? [Date.parse(d)] : [])));
  return (day) => (day ? (Date.parse(day) - start) / (last - start) : null);
}
