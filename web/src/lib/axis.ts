/** The time axis of the Horizon and the stretches of light on it: pure geometry. */
import type { Lane } from "../api/types";
import { DAY, dateOf } from "./format";

export type Axis = { start: number; end: number };
export type Light = "supported" | "fading" | "dark" | "unknown";
export type Stretch = { from: number; to: number; light: Light; line: string; ends: string | null };
export type Tick = { at: number; label: string; major: boolean };

const FADE = 182 * DAY;
const BEFORE = 240 * DAY;
const LEAST_AFTER = 460 * DAY;
const MOST_AFTER = 1500 * DAY;

/** From eight months back to past the last arrival, at least fifteen months and at most four years ahead. */
export function axisFor(lastArrival: string | null, today: string): Axis {
  const now = dateOf(today);
  const last = Math.max(now, lastArrival ? dateOf(lastArrival) : now);
  const after = Math.min(Math.max(last - now + 75 * DAY, LEAST_AFTER), MOST_AFTER);
  return { start: now - BEFORE, end: now + after };
}

/** Position of a moment, 0 to 1, kept on the axis. */
export function place(axis: Axis, at: number): number {
  return Math.min(Math.max((at - axis.start) / (axis.end - axis.start), 0), 1);
}

/** The light along one lane: supported, fading over the last half-year, dark after the end, unknown without a date. */
export function stretches(lane: Lane, axis: Axis): Stretch[] {
  const found: Stretch[] = [];
  for (const segment of lane.segments) {
    const from = segment.since ? dateOf(segment.since) : axis.start;
    const to = segment.until ? dateOf(segment.until) : axis.end;
    const add = (a: number, b: number, light: Light) => {
      const [left, right] = [Math.max(a, from, axis.start), Math.min(b, to, axis.end)];
      if (right > left) found.push({ from: left, to: right, light, line: segment.line, ends: segment.support_ends });
    };
    if (segment.support_ends === null) {
      add(from, to, "unknown");
      continue;
    }
    const end = dateOf(segment.support_ends);
    add(from, end - FADE, "supported");
    add(end - FADE, end, "fading");
    add(end, to, "dark");
  }
  return found;
}

/** Quarter lines, years labelled. */
export function ticks(axis: Axis): Tick[] {
  const found: Tick[] = [];
  const first = new Date(axis.start);
  for (let month = Math.ceil(first.getUTCMonth() / 3) * 3, i = 0; i < 40; i += 1) {
    const at = Date.UTC(first.getUTCFullYear(), month + i * 3, 1);
    if (at > axis.end) break;
    if (at < axis.start) continue;
    const date = new Date(at);
    const january = date.getUTCMonth() === 0;
    found.push({ at, label: january ? String(date.getUTCFullYear()) : "", major: january });
  }
  return found;
}
