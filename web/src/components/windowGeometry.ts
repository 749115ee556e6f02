/** Where the bars of a window stand: pure geometry over the lines of its axis. */
import type { WindowView } from "../api/types";

export type Bar = { x: number; width: number };
export type WindowShape = { step: number; old: Bar[]; fresh: Bar[]; both: Bar[]; here: number; goal: number; bite: number | null; labels: { x: number; text: string }[] };

const MOST_LINES = 14;

function key(line: string): number[] {
  return line.split(".").map(Number);
}

export function compareLines(a: string, b: string): number {
  const [left, right] = [key(a), key(b)];
  for (let i = 0; i < Math.max(left.length, right.length); i += 1) {
    const by = (left[i] ?? 0) - (right[i] ?? 0);
    if (by !== 0) return by;
  }
  return 0;
}

/** The lines drawn: all when few, else those around here and goal. */
export function drawn(view: WindowView): string[] {
  if (view.axis.length <= MOST_LINES) return view.axis;
  const here = view.axis.indexOf(view.here);
  const goal = view.axis.indexOf(view.goal);
  const from = Math.max(0, Math.min(here, goal) - 2);
  const to = Math.min(view.axis.length, Math.max(goal, here) + 2);
  return view.axis.slice(Math.max(from, to - 18), to);
}

/** Runs of neighbouring lines as bars. */
export function runs(axis: string[], lines: string[], step: number): Bar[] {
  const has = new Set(lines);
  const bars: Bar[] = [];
  axis.forEach((line, i) => {
    if (!has.has(line)) return;
    const last = bars.at(-1);
    if (last && Math.abs(last.x + last.width - i * step) < 0.01) last.width += step;
    else bars.push({ x: i * step, width: step });
  });
  return bars;
}

export function windowShape(view: WindowView, width: number): WindowShape {
  const axis = drawn(view);
  const step = width / Math.max(axis.length, 1);
  const middle = (line: string) => (Math.max(axis.findLastIndex((each) => compareLines(each, line) <= 0), 0) + 0.5) * step;
  const old = runs(axis, view.old, step);
  const end = old.at(-1);
  const bite = end && end.x + end.width < width - 0.01 ? end.x + end.width : null;
  const every = Math.ceil(axis.length / 11);
  const labels = axis.map((text, i) => ({ x: (i + 0.5) * step, text })).filter((_, i) => i % every === 0);
  return { step, old, fresh: runs(axis, view.new, step), both: runs(axis, view.both, step), here: middle(view.here), goal: middle(view.goal), bite, labels };
}
