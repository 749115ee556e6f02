/** A finding accepted on purpose: by whom, why and until when; to set, to change and to take back. */
import { type FormEvent, useState } from "react";
import { Link } from "react-router";

import { currentOf, problemOf, put, remove } from "../../api/client";
import type { Finding, Waiver } from "../../api/types";
import { Collisions } from "../../components/Collisions";
import { Dialog } from "../../components/Dialog";
import { useToast } from "../../components/Toasts";
import { day } from "../../lib/format";
import { type Fields, merge } from "../../lib/merging";
import { useRefresh } from "../../lib/stale";

type Field = "why" | "until";
const WORDS: Record<Field, string> = { why: "Why", until: "Until" };
const fieldsOf = (waiver: Waiver | null): Fields<Field> => ({ why: waiver?.why ?? "", until: waiver?.until ?? "" });

type Props = { finding: Finding; slug: string };

export function WaiverPart({ finding, slug }: Props) {
  const [open, setOpen] = useState(false);
  const { say, told, set, takeBack } = useWaiver(finding, slug);
  const waiver = finding.waiver;
  const back = () => {
    if (!waiver) return;
    takeBack(waiver.version)
      .then(() => say("The waiver was removed.", { undo: () => void set(fieldsOf(waiver), 0).catch(told) }))
      .catch(told);
  };
  return (
    <>
      {waiver ? (
        <section>
          <h3 className="quiet mb-0.5 text-[12.5px]">{waiver.expired ? "waiver ran out" : "waived"}</h3>
          <p className="break-words">
            {waiver.why}{" "}
            <span className="quiet">
              ({waiver.by}
              {waiver.until ? `, until ${day(waiver.until)}` : ""})
            </span>
          </p>
          <div className="mt-1 flex gap-2">
            <button type="button" className="press" onClick={() => setOpen(true)}>
              Change
            </button>
            <button type="button" className="press" onClick={back}>
              Take the waiver back
            </button>
          </div>
        </section>
      ) : (
        <div className="flex gap-2">
          {finding.step !== null && (
            <Link className="press press-main" to={`/applications/${slug}/work?step=${finding.step}`}>
              Its step
            </Link>
          )}
          <button type="button" className="press" onClick={() => setOpen(true)}>
            Waive
          </button>
        </div>
      )}
      {open && <WaiverForm finding={finding} slug={slug} close={() => setOpen(false)} />}
    </>
  );
}

function useWaiver(finding: Finding, slug: string) {
  const refresh = useRefresh();
  const say = useToast();
  const address = `/applications/${slug}/waivers/${finding.key}`;
  const told = (error: unknown) => {
    say(problemOf(error), { bad: true });
    if (currentOf(error) !== undefined) refresh(); // what stands there now is shown
  };
  const set = (fields: Fields<Field>, version: number) =>
    put<Waiver>(address, { why: fields.why, until: fields.until || null, version }).then((made) => {
      refresh();
      return made;
    });
  const takeBack = (version: number) => remove(`${address}?version=${version}`).then(refresh);
  return { say, told, set, takeBack };
}

function WaiverForm({ finding, slug, close }: Props & { close: () => void }) {
  const [base, setBase] = useState(finding.waiver);
  const [mine, setMine] = useState(fieldsOf(finding.waiver));
  const [collisions, setCollisions] = useState<Field[]>([]);
  const { say, told, set, takeBack } = useWaiver(finding, slug);
  const send = (fields: Fields<Field>, held: Waiver | null): Promise<void> =>
    set(fields, held?.version ?? 0)
      .then((made) => {
        close();
        const undo = () => void (held ? set(fieldsOf(held), made.version) : takeBack(made.version)).catch(told);
        say(held ? "The waiver is changed." : `${finding.title} is waived.`, { undo });
      })
      .catch((error: unknown) => {
        const current = currentOf<Waiver>(error);
        if (current === undefined) return told(error);
        const made = merge(fieldsOf(base), fields, fieldsOf(current));
        setBase(current);
        setMine(current ? made.merged : fields);
        setCollisions(current ? made.collisions : []);
        if (!current) say("Somebody took this waiver back meanwhile. Waiving sets it again.", { bad: true });
        else if (made.collisions.length === 0) return send(made.merged, current);
      });
  const edit = (field: Field) => (value: string) => setMine({ ...mine, [field]: value });
  return (
    <Dialog title={`${base ? "The waiver of" : "Waive"} ${finding.title}`} close={close}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event: FormEvent) => {
          event.preventDefault();
          void send(mine, base);
        }}
      >
        <p className="quiet text-[13.5px]">It still counts as failing; it no longer asks for work. Builds leave it out when they scan with the file of waivers that the Report gives.</p>
        <label>
          Why
          <textarea className="field mt-1 w-full" rows={3} required value={mine.why} onChange={(e) => edit("why")(e.target.value)} />
        </label>
        <label>
          Until <span className="quiet">(empty: no end)</span>
          <input type="date" className="field mt-1 w-full" value={mine.until} onChange={(e) => edit("until")(e.target.value)} />
        </label>
        <Collisions
          fields={collisions}
          words={WORDS}
          theirs={fieldsOf(base)}
          takeTheirs={(field) => {
            edit(field)(fieldsOf(base)[field]);
            setCollisions(collisions.filter((f) => f !== field));
          }}
        />
        <button type="submit" className="press press-main self-start">
          {base ? "Save" : "Waive it"}
        </button>
      </form>
    </Dialog>
  );
}
