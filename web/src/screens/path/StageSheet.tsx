/** What belongs to a stage: why, the changes that go with it, what it needs, what comes after, its gate, and what is not needed. */
import { useState } from "react";
import { Link } from "react-router";

import type { Edit, Stage, StageItem, TakenPackage } from "../../api/types";
import { plural } from "../../lib/format";

const MOST = 8;
const MOST_TAKEN = 5;

export function StageSheet({ stage, slug }: { stage: Stage; slug: string }) {
  const mechanical = stage.mechanical_count;
  return (
    <div className="flex flex-col gap-2 leading-snug">
      {stage.reasons.slice(0, 6).map((reason) => (
        <p key={reason} className="quiet text-[13px]">
          {reason}
        </p>
      ))}
      {stage.notes.map((note) => (
        <p key={note} className="text-[13px]">
          {note}
        </p>
      ))}
      <ul className="flex flex-col gap-1">
        {stage.edits.slice(0, MOST).map((edit) => (
          <EditLine key={edit.key} edit={edit} slug={slug} />
        ))}
        {stage.edit_count > MOST && (
          <li>
            <Link className="quiet underline" to={`/applications/${slug}`}>
              and {stage.edit_count - MOST} more
            </Link>
          </li>
        )}
        {mechanical > 0 && stage.number === 0 && <li className="quiet text-[13px]">{mechanical} of {stage.edit_count} are renames, alike at every place</li>}
        {stage.edit_count > 0 && (
          <li>
            <Link className="quiet text-[13px] underline" to={`/applications/${slug}/edits`}>
              see what can be written for you
            </Link>
          </li>
        )}
        {stage.safe > 0 && <li className="quiet text-[13px]">{plural(stage.safe, "change")} for this stage {stage.safe === 1 ? "is" : "are"} safe already today</li>}
      </ul>
      <Taken title="has to be replaced or dropped" packages={stage.stuck} strong />
      <Taken title="comes along" packages={stage.along} />
      {stage.unknown > 0 && (
        <p className="quiet text-[13px]">
          {plural(stage.unknown, "package")} not known:{" "}
          <Link className="underline" to={`/applications/${slug}?by=packages`}>
            look {stage.unknown === 1 ? "it" : "them"} up
          </Link>
        </p>
      )}
      <Items title="before you start" items={stage.needs} />
      <Items title="afterwards" items={stage.after} />
      <Items title="gate" items={stage.gate} />
      <NotNeeded items={stage.not_needed} />
    </div>
  );
}

/** Packages that a stage takes with it; the first few, and all on demand. */
function Taken({ title, packages, strong = false }: { title: string; packages: TakenPackage[]; strong?: boolean }) {
  const [all, setAll] = useState(false);
  if (packages.length === 0) return null;
  const shown = all ? packages : packages.slice(0, MOST_TAKEN);
  return (
    <section>
      <h3 className="text-[13px] font-semibold" style={strong ? { color: "var(--rose-text)" } : undefined}>
        {title} · {packages.length}
      </h3>
      <ul className="flex flex-col">
        {shown.map((one) => (
          <li key={one.name} className="text-[13px]" title={one.why}>
            <code className="break-all">{one.name}</code>{" "}
            <span className="quiet break-words">{strong ? one.why.replace(": replace or drop it", "") : `${one.before || "today’s"} → ${one.release}`}</span>
          </li>
        ))}
      </ul>
      {packages.length > MOST_TAKEN && (
        <button type="button" className="quiet text-[13px] underline" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? "fewer" : `and ${packages.length - MOST_TAKEN} more`}
        </button>
      )}
    </section>
  );
}

function EditLine({ edit, slug }: { edit: Edit; slug: string }) {
  const to = edit.step !== null ? `/applications/${slug}/work?step=${edit.step}` : `/applications/${slug}?finding=${encodeURIComponent(edit.key)}`;
  return (
    <li className="flex gap-2">
      <span aria-hidden="true" className="quiet">
        –
      </span>
      <Link to={to} className={`min-w-0 break-words hover:underline ${edit.done ? "quiet line-through" : ""}`}>
        {edit.title}
        {edit.places > 1 ? `, ${edit.places} places` : ""}
      </Link>
    </li>
  );
}

function Items({ title, items }: { title: string; items: StageItem[] }) {
  if (items.length === 0) return null;
  return (
    <section>
      <h3 className="text-[13px] font-semibold">{title}</h3>
      <ul className="flex flex-col gap-1">
        {items.map((item) => (
          <li key={item.text} className="border-l-2 pl-2 text-[13px] hair">
            {item.text}
            {item.evidence && <span className="quiet block text-[12.5px]">{item.evidence}</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}

function NotNeeded({ items }: { items: StageItem[] }) {
  if (items.length === 0) return null;
  return (
    <details>
      <summary className="quiet cursor-pointer text-[13px]">{plural(items.length, "known change")} not needed here</summary>
      <ul className="pl-3">
        {items.map((item) => (
          <li key={item.text} className="quiet text-[13px]">
            {item.text}: {item.evidence}
          </li>
        ))}
      </ul>
    </details>
  );
}
