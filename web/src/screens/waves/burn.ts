/** Something that grows or shrinks over the weeks, as paths: what it was, the middle of the runs ahead, and the band around it. Pure geometry. */
import { dateOf, shortDay } from "../../lib/format";

export type Ahead = { week: string; low: number; middle: number; high: number };
export type Past = { made: string; value: number };
export type Burn = {
  past: string;
  area: string;
  middle: string;
  dotted: string;
  today: { x: number; y: number };
  labels: { x: number; text: string; anchor: "start" | "middle" | "end" }[];
  y: (value: number) => number;
};

const TOP = 4;
const ROOM = 70; // pixels that two dates below the line need between them

/** `past`: oldest first, the last one is now. `most`: the value at the top, where the points do not say more. `unknown`: what is to be
 *  laid over the middle, dotted, because nobody knows it. */
export function burn(past: Past[], ahead: Ahead[], width: number, height: number, most = 0, unknown = 0): Burn {
  const [first, now, last] = [past[0], past.at(-1), ahead.at(-1)];
  const later = ahead.filter((p) => p.week > (now?.made ?? ""));
  const top = Math.max(most, ...past.map((p) => p.value), (now?.value ?? 0) + unknown, ...later.map((p) => p.high + unknown), 0.01);
  const y = (value: number) => height - (value / top) * (height - TOP);
  if (!first || !now || !last) return { past: "", area: "", middle: "", dotted: "", today: { x: 0, y: height }, labels: [], y };
  const [from, until] = [dateOf(first.made), Math.max(dateOf(last.week), dateOf(now.made))];
  const x = (day: string) => (until > from ? ((dateOf(day) - from) / (until - from)) * width : 0);
  const line = (points: [number, number][]) => points.map(([a, b], i) => `${i ? "L" : "M"}${a.toFixed(1)} ${b.toFixed(1)}`).join("");
  const start: [number, number] = [x(now.made), y(now.value)];
  const through = (value: (p: Ahead) => number): [number, number][] => [start, ...later.map((p): [number, number] => [x(p.week), y(value(p))])];
  const today = { x: start[0], y: start[1] };
  return {
    past: past.length > 1 ? line(past.map((p) => [x(p.made), y(p.value)])) : "",
    area: `${line([...through((p) => p.high), ...through((p) => p.low).reverse()])}Z`,
    middle: line(through((p) => p.middle)),
    dotted: unknown > 0 ? line([[start[0], y(now.value + unknown)], ...later.map((p): [number, number] => [x(p.week), y(p.middle + unknown)])]) : "",
    today,
    labels: [
      ...(today.x > ROOM || past.length === 1 ? [{ x: 0, text: shortDay(first.made), anchor: "start" as const }] : []),
      ...(past.length > 1 && today.x < width - ROOM ? [{ x: today.x, text: "today", anchor: today.x > ROOM ? ("middle" as const) : ("start" as const) }] : []),
      { x: width, text: shortDay(last.week), anchor: "end" },
    ],
    y,
  };
}
