/** The path that was taken: what is finished, what moved under it, and the new plan where there is one. */
import type { PathView } from "../../api/types";
import { moment } from "../../lib/format";

type Props = { path: PathView; renew: () => void; leave: () => void };

export function AdoptedPath({ path, renew, leave }: Props) {
  const taken = path.adopted;
  if (!taken) return null;
  return (
    <section aria-label="Adopted path" className="mt-2 rounded border px-3 py-2 text-[14px] hair sheet">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <span>
          <b>{taken.title}</b> was adopted by {taken.who}, {moment(taken.at)}. {taken.why}
        </span>
        <button type="button" className="press press-quiet ml-auto" onClick={leave}>
          Undo adoption
        </button>
      </div>
      {taken.finished.length > 0 && <p className="text-[13.5px]">Finished: {taken.finished.map((f) => f.title).join("; ")}</p>}
      {taken.moved.length > 0 ? (
        <div className="mt-1 border-l-4 pl-3" style={{ borderColor: "var(--rose)" }}>
          <p className="font-semibold">Changes since adoption</p>
          <ul className="text-[13.5px]">
            {taken.moved.map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
          {taken.fresh && (
            <button type="button" className="press mt-1" onClick={renew}>
              Take the new plan
            </button>
          )}
        </div>
      ) : (
        <p className="quiet text-[13.5px]">No changes since adoption.</p>
      )}
    </section>
  );
}
