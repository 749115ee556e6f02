/** The work that is left over time, and the cone of what is expected, as points on a plane. Pure geometry. */
import { dateOf, DAY } from "../../lib/format";

export type Point = { x: number; y: number };
export type Remaining = { line: Point[]; cone: Point[]; today: number; arrival50: number | null; arrival80: number | null; most: number; at: (iso: string) => number };

type Given = {
  left: { day: string; days: number }[];
  today: string;
  arrival50: string | null;
  arrival80: string | null;
  ends: string[];
  width: number;
  height: number;
};

const BEFORE = 30 * DAY;

/** Everything on one scale: from the first day that is known to past the last arrival or the first support end. */
export function remaining({ left, today, arrival50, arrival80, ends, width, height }: Given): Remaining {
  const now = dateOf(today);
  const start = Math.min(left[0] ? dateOf(left[0].day) : now, now - BEFORE);
  const last = Math.max(now + BEFORE, ...[arrival80, arrival50, ends[0]].flatMap((iso) => (iso ? [dateOf(iso)] : [])));
  const end = last + (last - start) * 0.06;
  const most = Math.max(...left.map((point) => point.days), 0.1);
  const x = (moment: number) => ((moment - start) / (end - start)) * width;
  const y = (days: number) => height - (days / most) * height;
  const line = steps(left.map((point) => ({ x: x(dateOf(point.day)), y: y(point.days) })));
  const here = left.at(-1)?.days ?? 0;
  const [near, far] = [arrival50, arrival80].map((iso) => (iso ? x(Math.max(dateOf(iso), now)) : null));
  const cone = here > 0 && near !== null && near !== undefined && far !== null && far !== undefined ? [{ x: x(now), y: y(here) }, { x: far, y: height }, { x: near, y: height }] : [];
  return { line, cone, today: x(now), arrival50: near ?? null, arrival80: far ?? null, most, at: (iso) => x(dateOf(iso)) };
}

/** What is left stays until something happens: a line of steps. */
function steps(points: Point[]): Point[] {
  return points.flatMap((point, index) => {
    const before = points[index - 1];
    return before ? [{ x: point.x, y: before.y }, point] : [point];
  });
}
