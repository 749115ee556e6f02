/** Where a route stands between the old side and the new, as a place on a line. */
import type { Standing } from "../../api/types";
import { figure } from "../../lib/format";

export const STOPS: readonly Standing[] = ["old", "mirrored", "shared", "new"];

/** From 0 (old) to 1 (new): a share lies between where sharing begins and the new side. */
export function place(standing: Standing, share: number): number {
  const third = 1 / 3;
  if (standing === "mirrored") return third;
  if (standing === "shared") return 2 * third + (Math.min(Math.max(share, 0), 100) / 100) * third;
  return standing === "new" ? 1 : 0;
}

/** The disc of a route: night while it is old, amber on its way, day when it has arrived. */
export function tone(standing: Standing): string {
  if (standing === "new") return "var(--day)";
  return standing === "old" ? "var(--night)" : "var(--amber)";
}

/** A name for people: the percentage belongs to a share only. */
export function spoken(standing: Standing, share: number): string {
  return standing === "shared" ? `shared ${share} %` : standing;
}

/** Bars of a strip, the latest at the right; fewer comparisons leave the left empty. */
export function bars(strip: readonly boolean[], most: number): { x: number; alike: boolean }[] {
  const shown = strip.slice(-most);
  return shown.map((alike, i) => ({ x: most - shown.length + i, alike }));
}

/** Figures with thousands; below ten one digit behind the point where it says something. */
export function calls(weekly: number): string {
  if (weekly === 0) return "0";
  return weekly < 10 ? weekly.toFixed(1) : figure(Math.round(weekly));
}
