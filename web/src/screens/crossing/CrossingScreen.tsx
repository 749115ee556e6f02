/** How far is it across? Routes by weight with where each stands, how alike the answers are, and what moves next. */
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useParams } from "react-router";

import { crossingQuery } from "../../api/queries";
import type { CrossingView } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { FileButton } from "../../components/FileButton";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { useKeys } from "../../lib/keys";
import { useParam } from "../../lib/params";
import { Bands } from "./Bands";
import { BeginForm } from "./BeginForm";
import { CompareDialog } from "./CompareDialog";
import { narrowed } from "./filter";
import { GatewayDialog } from "./GatewayDialog";
import { LeftLine } from "./LeftLine";
import { RoutePanel } from "./RoutePanel";
import { SlicesDialog } from "./SlicesDialog";
import { Foot } from "./Foot";
import { useBring } from "./useBring";

export default function CrossingScreen() {
  const slug = useParams().slug ?? "";
  const query = useQuery(crossingQuery(slug));
  if (query.isPending) return <Waiting what="the crossing" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const crossing = query.data;
  return (
    <div className="pb-8">
      <AppHeader row={crossing.application} heading={crossing.heading} emphasis="" />
      {crossing.begun ? <Body slug={slug} crossing={crossing} /> : <BeginForm slug={slug} crossing={crossing} />}
    </div>
  );
}

function Body({ slug, crossing }: { slug: string; crossing: CrossingView }) {
  const [words, setWords] = useParam("find", "");
  const [chosen, choose] = useParam("route", "");
  const [open, setOpen] = useState<"" | "slices" | "compare" | "gateway">("");
  const field = useRef<HTMLInputElement>(null);
  const bands = narrowed(crossing.bands, words);
  const names = bands.flatMap((band) => band.routes.map((route) => route.name));
  const walk = (step: number) => () => choose(names[Math.min(Math.max(names.indexOf(chosen) + step, 0), names.length - 1)] ?? "");
  useKeys({
    j: walk(1),
    k: walk(-1),
    Escape: () => choose(""),
    "/": (event) => {
      event.preventDefault();
      field.current?.focus();
    },
  });
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 px-[22px] py-2.5">
        <LeftLine rows={crossing.left} />
        <p className="quiet min-w-[260px] grow basis-0 text-[14px]">{crossing.told}</p>
        <FilterField label="Find routes" value={words} set={setWords} field={field} width="w-[130px]" />
        <button type="button" className="press" onClick={() => setOpen("slices")}>
          Slices …
        </button>
        <LogButton slug={slug} />
        <button type="button" className="press" onClick={() => setOpen("compare")}>
          Compare …
        </button>
        <button type="button" className="press" onClick={() => setOpen("gateway")}>
          Gateway …
        </button>
      </div>
      <div className="flex items-start gap-4 px-[22px]">
        <div className="min-w-0 grow overflow-x-auto">
          {bands.length > 0 ? <Bands bands={bands} counted={crossing.calls_from !== ""} chosen={chosen} choose={choose} /> : <Empty title={words ? "No route fits these words." : crossing.heading}>{words ? "" : crossing.told}</Empty>}
          <Foot crossing={crossing} />
        </div>
        {chosen !== "" && <RoutePanel key={chosen} slug={slug} name={chosen} close={() => choose("")} />}
      </div>
      {open === "slices" && <SlicesDialog slug={slug} close={() => setOpen("")} />}
      {open === "compare" && <CompareDialog slug={slug} crossing={crossing} close={() => setOpen("")} />}
      {open === "gateway" && <GatewayDialog slug={slug} crossing={crossing} close={() => setOpen("")} />}
    </>
  );
}

function LogButton({ slug }: { slug: string }) {
  const say = useToast();
  const bring = useBring<{ job: number }>(slug, "logs", () => say("The log is being counted."));
  return (
    <FileButton what="An access log" busy={bring.isPending} take={bring.mutate}>
      {bring.isPending ? "Handing over …" : "Count a log …"}
    </FileButton>
  );
}
