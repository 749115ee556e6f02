/** Work left from week to week as paths: the middle of the runs and the band around it. Pure geometry. */
import { shortDay } from "../../lib/format";

export type ConePoint = { week: string; low: number; middle: number; high: number };
export type Cone = { area: string; middle: string; labels: { x: number; text: string; anchor: "start" | "end" }[] };

export function cone(points: ConePoint[], width: number, height: number): Cone {
  const [first, last] = [points[0], points.at(-1)];
  if (!first || !last) return { area: "", middle: "", labels: [] };
  const most = Math.max(...points.map((p) => p.high), 0.01);
  const x = (i: number) => (points.length > 1 ? (i / (points.length - 1)) * width : 0);
  const y = (days: number) => height - (days / most) * (height - 4);
  const line = (values: [number, number][]) => values.map(([a, b], i) => `${i ? "L" : "M"}${a.toFixed(1)} ${b.toFixed(1)}`).join("");
  const up = points.map((p, i): [number, number] => [x(i), y(p.high)]);
  const down = points.map((p, i): [number, number] => [x(i), y(p.low)]).reverse();
  return {
    area: `${line([...up, ...down])}Z`,
    middle: line(points.map((p, i) => [x(i), y(p.middle)])),
    labels: [
      { x: 0, text: shortDay(first.week), anchor: "start" },
      { x: width, text: shortDay(last.week), anchor: "end" },
    ],
  };
}
