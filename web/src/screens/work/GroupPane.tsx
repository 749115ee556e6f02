/** A stage of an application as work: what it waits for, when it is planned, and where it is carried out and proven. */
import { Link } from "react-router";

import type { StepGroup } from "../../api/types";
import { day, minutes, plural } from "../../lib/format";
import { capital } from "./GroupHead";

export function GroupPane({ group, by, doable, chooseAll, choosing }: { group: StepGroup; by: string; doable: boolean; chooseAll: () => void; choosing: boolean }) {
  const at = `/applications/${group.slug}`;
  return (
    <section aria-label={`Steps of ${group.application || group.title}`} className="flex flex-col gap-3 p-5 text-[14px]">
      <div>
        <h2 className="text-[16px] leading-snug font-bold break-words">{by === "person" ? capital(group.title) : `${group.application}, ${group.title}`}</h2>
        <p className="quiet">
          {plural(group.steps, "step")}, {minutes(group.minutes)} as estimated{group.team && ` · ${group.team}`}
          {by === "stage" && group.owner && ` · looked after by ${group.owner}`}
        </p>
        {doable && group.stage === 0 && group.live && <p className="quiet">To be done by {day(group.live)}, when its first stage is planned to begin.</p>}
        {doable && group.begins && (
          <p className="quiet">
            Planned from {day(group.begins)}, live {day(group.live)} with 50 %.
          </p>
        )}
      </div>
      {doable && group.waits.length === 0 && <p>Nothing stands before it: it can be done now.</p>}
      {doable && group.waits.length > 0 && (
        <div>
          <h3 className="font-bold">It waits for</h3>
          <ul className="list-disc pl-5">
            {group.waits.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </div>
      )}
      <div className="flex flex-wrap gap-2">
        {by === "stage" && (
          <>
            {doable && (
              <Link className="press press-main" to={`${at}/edits?scope=${group.stage === 0 ? "now" : group.stage}`}>
                Carry it out
              </Link>
            )}
            <Link className="press" to={`${at}/proof?stage=${group.stage}`}>
              Prove it
            </Link>
            <Link className="press" to={`${at}/path`}>
              Its path
            </Link>
          </>
        )}
        <button type="button" className="press" onClick={chooseAll} disabled={choosing}>
          Choose {group.steps > MOST ? `the first ${MOST}` : "all"}
        </button>
      </div>
    </section>
  );
}

/** Steps that are changed at once at most. */
export const MOST = 500;
