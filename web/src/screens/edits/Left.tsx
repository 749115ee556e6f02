/** What is left to a person, and why: findings without an edit, and files whose changes did not pass a check. */
import { Link } from "react-router";

import type { EditsView } from "../../api/types";
import { plural } from "../../lib/format";

export function Left({ edits }: { edits: EditsView }) {
  const cannot = edits.files.filter((file) => file.outcome === "cannot");
  const hand = edits.files.filter((file) => file.hand.length > 0);
  return (
    <>
      {cannot.length > 0 && (
        <Part title={`${plural(cannot.length, "file")} did not pass a check`}>
          {cannot.map((file) => (
            <Line key={file.path} name={file.path} why={file.why} />
          ))}
        </Part>
      )}
      {hand.length > 0 && (
        <Part title={`${plural(hand.length, "file")} with places left to a person`}>
          {hand.map((file) => (
            <Line key={file.path} name={file.path} why={file.hand.join("; ")} />
          ))}
        </Part>
      )}
      {edits.by_hand.length > 0 && (
        <Part title={`${plural(edits.by_hand.length, "finding")} without an edit`}>
          {edits.by_hand.map((one) => (
            <li key={one.key} className="py-0.5 text-[13px]">
              <Link className="break-words underline" to={`/applications/${edits.application.slug}?finding=${encodeURIComponent(one.key)}`}>
                {one.title}
              </Link>{" "}
              <span className="quiet break-words">{one.why}</span>
            </li>
          ))}
        </Part>
      )}
    </>
  );
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <details className="mb-2">
      <summary className="cursor-pointer text-[14px] font-semibold">{title}</summary>
      <ul className="pl-1">{children}</ul>
    </details>
  );
}

function Line({ name, why }: { name: string; why: string }) {
  return (
    <li className="py-0.5 text-[13px]">
      <code className="break-all">{name}</code> <span className="quiet break-words">{why}</span>
    </li>
  );
}
