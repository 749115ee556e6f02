/** The ways of one application: side by side on one scale, the chosen one stage by stage, to be bent, compared and taken. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useParams, useSearchParams } from "react-router";

import { pathQuery } from "../../api/queries";
import type { PathView } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { Empty, Failed, Waiting } from "../../components/States";
import { Adjust } from "./Adjust";
import { Compare } from "./Compare";
import { Foot } from "./Foot";
import { Grid } from "./Grid";
import { History } from "./History";
import { NoPath } from "./NoPath";
import { OtherStrategies } from "./OtherStrategies";
import { type Key, queryOf, toggled } from "./shape";
import { AdoptedPath } from "./AdoptedPath";
import { useTaking } from "./useTaking";
import { Options } from "./Options";

export default function PathScreen() {
  const slug = useParams().slug ?? "";
  const [params] = useSearchParams();
  const query = useQuery({ ...pathQuery(slug, queryOf(params)), placeholderData: keepPreviousData });
  if (query.isPending) return <Waiting what="the options" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const path = query.data;
  return (
    <>
      <AppHeader row={path.application} heading={path.heading} emphasis={path.emphasis} />
      {path.tracks.length === 0 ? (
        <Empty title={path.heading}>
          {path.application.scanned_at ? "Say what it stands on today, on its Evidence: the options follow." : "Scan it: the options, their stages and their dates stand here afterwards."}
        </Empty>
      ) : (
        <Found path={path} busy={query.isPlaceholderData} />
      )}
    </>
  );
}

function Found({ path, busy }: { path: PathView; busy: boolean }) {
  const [params, setParams] = useSearchParams();
  const way = path.ways.find((w) => w.key === params.get("way")) ?? path.ways.find((w) => w.adopted) ?? path.ways[0];
  const other = path.ways.find((w) => w.key === params.get("against") && w.key !== way?.key);
  const set = (key: string, value: string | null) => {
    const next = new URLSearchParams(params);
    if (value === null) next.delete(key);
    else next.set(key, value);
    setParams(next, { replace: true });
  };
  const bend = (key: Key, value: string) => setParams(toggled(params, key, value));
  const { take, leave, busy: taking, question } = useTaking(path);
  return (
    <div className="page pt-1" aria-busy={busy} style={{ opacity: busy ? 0.6 : 1 }}>
      {path.sets.length > 1 && <Sets path={path} choose={(name) => set("set", name)} />}
      {path.warnings.map((text) => (
        <p key={text} className="mt-1 border-l-4 pl-3 text-[14px]" style={{ borderColor: "var(--rose)" }}>
          {text}.
        </p>
      ))}
      <AdoptedPath path={path} renew={() => take(path.adopted?.choice ?? "work")} leave={leave} />
      {path.conflict && <NoPath conflict={path.conflict} bend={bend} />}
      {way && <Options path={path} chosen={way.key} choose={(key) => set("way", key)} />}
      <Adjust path={path} way={way} params={params} go={(next) => setParams(next)} />
      {way && <Grid path={path} way={way} bend={bend} foot={<Foot path={path} way={way} params={params} take={() => take(way.key)} busy={taking} compare={(key) => set("against", key)} />} />}
      {way && other && <Compare path={path} way={way} other={other} close={() => set("against", null)} />}
      <OtherStrategies path={path} take={take} />
      <History path={path} />
      {question}
    </div>
  );
}

function Sets({ path, choose }: { path: PathView; choose: (name: string) => void }) {
  return (
    <div className="flex flex-wrap items-center gap-2 py-1 text-[13.5px]" role="group" aria-label="Sets of modules">
      <span className="quiet">moves as</span>
      {path.sets.map((made) => (
        <button key={made.name} type="button" className={`press ${made.name === path.set ? "press-main" : ""}`} aria-pressed={made.name === path.set} onClick={() => choose(made.name)}>
          {made.title}
          {made.modules > 1 ? ` (${made.modules} modules)` : ""}
        </button>
      ))}
    </div>
  );
}
