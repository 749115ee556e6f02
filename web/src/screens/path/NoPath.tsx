/** Nothing leads there: the constraints that cannot hold together, and what would open a way, each one press away. */
import type { ConflictView } from "../../api/types";
import { shortOf } from "../../lib/coordinates";
import { type Key } from "./shape";

type Release = ConflictView["releases"][number];

export function NoPath({ conflict, bend }: { conflict: ConflictView; bend: (key: Key, value: string) => void }) {
  return (
    <section aria-label="No path" className="my-4 max-w-4xl rounded-md border border-l-4 px-4 py-3" style={{ borderColor: "var(--rose)" }}>
      <h2 className="text-[17px] font-bold">These cannot hold together</h2>
      <ul className="my-1">
        {conflict.constraints.map((c) => (
          <li key={c.text} className="text-[14.5px]">
            {c.text} <span className="quiet text-[13px]">({c.grade}: {c.source})</span>
          </li>
        ))}
      </ul>
      <h3 className="mt-3 font-semibold">What would make a path possible</h3>
      {conflict.releases.length === 0 && <p className="quiet">No single change does. Choose another destination, or look at fewer packages.</p>}
      <ul>
        {conflict.releases.map((release) => (
          <li key={release.text} className="flex items-center gap-3 py-0.5">
            <ReleaseButton release={release} bend={bend} />
            <span>{release.text}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function ReleaseButton({ release, bend }: { release: Release; bend: (key: Key, value: string) => void }) {
  const short = shortOf(release.coordinate);
  const wishes: Record<string, [Key, string]> = { package: ["drop", short], stay: ["out", short], pin: ["pin", `${short}@${release.line}`], avoid: ["avoid", `${short}@${release.line}`], order: ["order", `${short}>${shortOf(release.line)}`] };
  const wish = wishes[release.what];
  if (!wish) return <span className="quiet w-24 text-[13px]">destination</span>;
  return (
    <button type="button" className="press w-24" onClick={() => bend(...wish)} aria-label={`Try: ${release.text}`}>
      Try it
    </button>
  );
}
