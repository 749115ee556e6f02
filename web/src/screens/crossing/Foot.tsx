/** Below the routes: what many of them need, calls that no route answers, routes that only the new side has. */
import type { CrossingView } from "../../api/types";
import { figure } from "../../lib/format";

export function Foot({ crossing }: { crossing: CrossingView }) {
  const answered = crossing.unmatched.filter((each) => each.answered > 0);
  return (
    <div className="mt-4 grid grid-cols-3 gap-6 text-[13px]">
      {crossing.many.length > 0 && (
        <section aria-label="Needed by many">
          <h2 className="font-bold">What many routes need</h2>
          <p className="quiet">Bring it first, or share it.</p>
          <ul>
            {crossing.many.map((part) => (
              <li key={`${part.file}${part.line}`} className="flex justify-between gap-2" title={`${part.file}:${part.line}`}>
                <span className="truncate font-mono text-[12.5px]">{part.name}</span>
                <span className="quiet shrink-0">
                  {part.routes} routes, {part.lines} lines
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {crossing.unmatched.length > 0 && (
        <section aria-label="Calls without a route">
          <h2 className="font-bold">Called, and no route fits</h2>
          <p className="quiet">{answered.length > 0 ? `${answered.length} of them were answered: something else answers there.` : "None of them was answered."}</p>
          <ul>
            {crossing.unmatched.slice(0, 8).map((each) => (
              <li key={`${each.method}${each.path}`} className="flex justify-between gap-2">
                <span className="truncate font-mono text-[12.5px]" title={each.path}>
                  {each.method} {each.path}
                </span>
                <span className="quiet shrink-0">{figure(each.requests)}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {(crossing.only_new.length > 0 || crossing.loops.length > 0) && (
        <section aria-label="Only on the new side">
          {crossing.loops.map((loop) => (
            <p key={loop.join()} className="mb-1 font-semibold text-[var(--rose-text)]">
              {loop.join(" and ")} need one another: they move together.
            </p>
          ))}
          {crossing.only_new.length > 0 && (
            <>
              <h2 className="font-bold">Only on the new side</h2>
              <ul>
                {crossing.only_new.slice(0, 8).map((name) => (
                  <li key={name} className="truncate font-mono text-[12.5px]">
                    {name}
                  </li>
                ))}
              </ul>
            </>
          )}
        </section>
      )}
    </div>
  );
}
