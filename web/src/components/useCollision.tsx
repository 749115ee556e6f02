/** Two people changed one thing at once: both states side by side, and which of them shall stand. */
import { type ReactNode, useState } from "react";

import { useRefresh } from "../lib/stale";
import { Dialog } from "./Dialog";

export type Differing = { what: string; theirs: string; mine: string };
/** ``title`` and ``words`` where it was not somebody else's haste. */
export type Collision = { rows: Differing[]; keepMine: () => void; keepTheirs?: (() => void) | undefined; title?: string; words?: string };

/** ``ask`` opens the question, ``dialog`` is where it stands. Closing it decides nothing; what stands there now is shown. */
export function useCollision(): { ask: (collision: Collision) => void; dialog: ReactNode } {
  const [asked, setAsked] = useState<Collision | null>(null);
  const refresh = useRefresh();
  const answer = (then?: () => void) => () => {
    setAsked(null);
    then?.();
  };
  const dialog = asked && (
    <Dialog title={asked.title ?? "Somebody else was faster"} close={answer(refresh)} wide>
      <p className="quiet mb-3 text-[14px]">{asked.words ?? "Nothing was written. This is what stands there now, and what you were about to set."}</p>
      <div className="max-h-[50vh] overflow-y-auto">
        <table className="w-full text-[14px]">
          <thead>
            <tr className="quiet border-b text-left hair">
              <td className="py-1" />
              <th className="font-normal">theirs</th>
              <th className="font-normal">yours</th>
            </tr>
          </thead>
          <tbody>
            {asked.rows.map((row) => (
              <tr key={row.what} className="border-b align-top hair">
                <th className="max-w-44 truncate py-1.5 pr-4 text-left font-semibold" title={row.what}>
                  {row.what}
                </th>
                <td className="py-1.5 pr-4 break-words">{row.theirs || "nothing"}</td>
                <td className="py-1.5 break-words">{row.mine || "nothing"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="mt-4 flex gap-2">
        <button type="button" className="press press-main" onClick={answer(asked.keepTheirs)}>
          Keep theirs
        </button>
        <button type="button" className="press" onClick={answer(asked.keepMine)}>
          Set mine
        </button>
      </div>
    </Dialog>
  );
  return { ask: setAsked, dialog };
}
