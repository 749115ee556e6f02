/** How many routes are left, as a line of steps. */
export type LeftOn = { day: string; left: number };

/** The points of a stepped line in a box: time to the right, what is left upwards; nothing where no time has passed. */
export function stepped(rows: readonly LeftOn[], width: number, height: number): [number, number][] {
  const times = rows.map((row) => Date.parse(row.day));
  const [first, last] = [Math.min(...times), Math.max(...times)];
  const most = Math.max(...rows.map((row) => row.left), 1);
  if (rows.length === 0 || last === first) return [];
  const x = (time: number) => ((time - first) / (last - first)) * width;
  const y = (left: number) => height - (left / most) * height;
  return rows.flatMap((row, i): [number, number][] => {
    const at = x(times[i] ?? first);
    const before = rows[i - 1];
    return before ? [[at, y(before.left)], [at, y(row.left)]] : [[at, y(row.left)]];
  });
}
