/** A path in two pieces: what many routes begin with, and what tells this one apart. The first gives way where there is no room. */
export function inPieces(path: string): [head: string, tail: string] {
  const end = path.endsWith("/") && path.length > 1 ? "/" : "";
  const segments = path.slice(0, path.length - end.length).split("/");
  if (segments.length <= TOLD + 1) return ["", path];
  const cut = segments.length - TOLD;
  return [segments.slice(0, cut).join("/"), `/${segments.slice(cut).join("/")}${end}`];
}

/** Segments that tell a route apart from its neighbours: a thing, and what is done with it. */
const TOLD = 2;
