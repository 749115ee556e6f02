/** Bands with only the routes that have every word: in method, path, handler, file, slice, standing or what moves them next. */
import type { SliceBand } from "../../api/types";

export function narrowed(bands: readonly SliceBand[], words: string): SliceBand[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  if (wanted.length === 0) return [...bands];
  return bands
    .map((band) => ({
      ...band,
      routes: band.routes.filter((route) => {
        const text = `${route.method} ${route.path} ${route.handler} ${route.file} ${band.name} ${route.standing} ${route.told}`.toLowerCase();
        return wanted.every((word) => text.includes(word));
      }),
    }))
    .filter((band) => band.routes.length > 0);
}
