/** Strategies that do not travel, and those that cannot be taken here: each with its reasons. */
import type { Other, PathView } from "../../api/types";
import { day } from "../../lib/format";

export function OtherStrategies({ path, take }: { path: PathView; take: (choice: string) => void }) {
  if (path.others.length === 0) return null;
  const possible = path.others.filter((o) => o.possible);
  const refused = path.others.filter((o) => !o.possible);
  return (
    <section aria-label="Other strategies" className="grid grid-cols-2 gap-10 border-t pt-3 hair">
      <div>
        <h2 className="text-[16px] font-bold">Without moving</h2>
        {possible.length === 0 && <p className="quiet text-[13.5px]">None applies.</p>}
        <ul>
          {possible.map((other) => (
            <Line key={other.strategy} other={other}>
              <button type="button" className="press" onClick={() => take(other.strategy)}>
                {other.title}
              </button>
            </Line>
          ))}
        </ul>
      </div>
      <div>
        <h2 className="text-[16px] font-bold">Not possible here</h2>
        {refused.length === 0 && <p className="quiet text-[13.5px]">Every strategy is possible.</p>}
        <ul>
          {refused.map((other) => (
            <Line key={other.strategy} other={other}>
              <b className="text-[14px]">{other.title}</b>
            </Line>
          ))}
        </ul>
      </div>
    </section>
  );
}

function Line({ other, children }: { other: Other; children: React.ReactNode }) {
  return (
    <li className="grid grid-cols-[150px_minmax(0,1fr)] items-baseline gap-3 py-1 text-[14px]">
      <span>{children}</span>
      <span className="quiet">
        {other.reasons.join("; ")}
        {other.until ? ` (until ${day(other.until)})` : ""}
      </span>
    </li>
  );
}
