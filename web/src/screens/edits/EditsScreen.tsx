/** What can be changed for you in one application: steps and files ticked in and out, each file old beside new, then a branch or a patch. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";

import { post } from "../../api/client";
import { editsQuery } from "../../api/queries";
import type { EditsView } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { Empty, Failed, Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { moment, plural } from "../../lib/format";
import { useParam } from "../../lib/params";
import { Commit } from "./Commit";
import { Files } from "./Files";
import { Left } from "./Left";
import { Made } from "./Made";
import { Sides } from "./Sides";
import { Steps } from "./Steps";

export default function EditsScreen() {
  const slug = useParams().slug ?? "";
  const query = useQuery(editsQuery(slug));
  if (query.isPending) return <Waiting what="the edits" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const edits = query.data;
  return (
    <div className="flex h-[calc(100vh-48px)] min-h-[480px] flex-col">
      <AppHeader row={edits.application} heading={edits.heading} emphasis={edits.emphasis} />
      <Ask slug={slug} edits={edits} />
      {edits.at === null ? (
        <Empty title={edits.state === "working" ? "The application is being read, changed and read again." : "Nothing was asked for yet."}>
          {edits.scopes.length === 0 ? "Scan it first: what can be changed follows from that." : "Choose what is to be changed, and ask for it. Nothing of the application is written before you say so."}
        </Empty>
      ) : (
        <Body key={edits.at} slug={slug} edits={edits} />
      )}
    </div>
  );
}

/** Which changes to propose, and what came of the last request. */
function Ask({ slug, edits }: { slug: string; edits: EditsView }) {
  const [linked] = useParam("scope");
  const [scope, setScope] = useState(edits.scopes.some((one) => one.key === linked) ? linked : edits.scope);
  const client = useQueryClient();
  const toast = useToast();
  const ask = useMutation({
    mutationFn: () => post<{ job: number }>(`/applications/${encodeURIComponent(slug)}/edits`, { scope }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["edits", slug] });
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
  const working = edits.state === "working" || ask.isPending;
  return (
    <div className="flex flex-wrap items-center gap-3 border-b px-[22px] py-2 text-[14px] hair">
      <label className="flex items-center gap-2">
        <span className="quiet">changes</span>
        <select className="field h-7" value={scope} onChange={(e) => setScope(e.target.value)}>
          {edits.scopes.map((one) => (
            <option key={one.key} value={one.key}>
              {one.title} ({one.count})
            </option>
          ))}
        </select>
      </label>
      <button type="button" className={`press ${edits.at === null ? "press-main" : ""}`} disabled={working || edits.scopes.length === 0} onClick={() => ask.mutate()}>
        {working ? "Working …" : edits.at === null ? "Propose edits" : "Propose again"}
      </button>
      {edits.at !== null && (
        <span className="quiet text-[13px]">
          proposed {moment(edits.at)}
          {edits.who && ` for ${edits.who}`}
        </span>
      )}
      {edits.stale && <b className="text-[13px]">The application has changed since: propose again.</b>}
      {edits.state === "failed" && <b className="text-[13px] text-[var(--rose-text)]">{edits.said}</b>}
      {edits.state === "ready" && edits.said && <b className="text-[13px]">{edits.said}</b>}
    </div>
  );
}

function Body({ slug, edits }: { slug: string; edits: EditsView }) {
  const changed = edits.files.filter((file) => file.outcome === "changed");
  const [steps, setSteps] = useState(() => new Set(edits.steps.map((step) => step.key)));
  const [left, setLeft] = useState(() => new Set<string>());
  const [shown, setShown] = useParam("file", changed[0]?.path ?? "");
  const chosen = changed.filter((file) => file.keys.some((key) => steps.has(key)));
  return (
    <div className="flex min-h-0 grow">
      <div className="flex w-[390px] shrink-0 flex-col overflow-auto border-r px-[22px] py-3 hair" tabIndex={0} role="region" aria-label="Steps and files">
        <Steps steps={edits.steps} chosen={steps} choose={setSteps} />
        <Files files={chosen} left={left} leave={setLeft} shown={shown} show={setShown} />
        <Left edits={edits} />
        <Made slug={slug} edits={edits} />
      </div>
      <div className="flex min-w-0 grow flex-col">
        {chosen.length > 0 && <Commit slug={slug} edits={edits} keys={edits.steps.filter((s) => steps.has(s.key)).map((s) => s.key)} left={[...left]} files={chosen.length - left.size} />}
        {shown && chosen.some((file) => file.path === shown) ? (
          <Sides slug={slug} at={edits.at ?? ""} path={shown} />
        ) : (
          <Empty title={chosen.length ? "Choose a file." : "No change is chosen."}>{chosen.length ? `${plural(chosen.length, "file")} would change.` : "Tick a step to see its files."}</Empty>
        )}
      </div>
    </div>
  );
}
