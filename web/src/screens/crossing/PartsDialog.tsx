/** What a route drags along, as a picture that can be cut: a part is brought along, shared through a bridge, or left out. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { partsQuery } from "../../api/queries";
import type { PartBox, PartChoice, PartsPicture } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { Failed, Waiting } from "../../components/States";
import { COLUMN, curve, extent, HEIGHT, placed, touching, WIDTH } from "./parts";
import { useCrossing } from "./useCrossing";
import { figure } from "../../lib/format";

const CHOICES: readonly [PartChoice, string, string][] = [
  ["bring", "Bring along", "it moves to the new side"],
  ["bridge", "Share through a bridge", "both sides use the one that is there"],
  ["leave", "Leave out", "the new side does without it"],
];
const STEPS = ["the handler", "what it calls", "two steps away", "three steps", "four steps", "five steps"];

export function PartsDialog({ slug, name, close }: { slug: string; name: string; close: () => void }) {
  const query = useQuery(partsQuery(slug, name));
  return (
    <Dialog title={`What ${name} drags along`} close={close} wide="most">
      {query.isPending && <Waiting what="the parts" />}
      {query.isError && <Failed error={query.error} />}
      {query.data && <Picture slug={slug} picture={query.data} />}
    </Dialog>
  );
}

function Picture({ slug, picture }: { slug: string; picture: PartsPicture }) {
  const [chosen, choose] = useState(0);
  const all = placed(picture.boxes);
  const { width, height } = extent(all);
  const near = touching(picture.arrows, chosen);
  const depths = [...new Set(picture.boxes.map((box) => box.depth))];
  const box = picture.boxes[chosen];
  const saved = picture.whole - picture.brought;
  return (
    <>
      <p className="text-[14px]">
        <b>
          {figure(picture.brought)} {picture.brought === 1 ? "line" : "lines"} to bring
        </b>
        {saved > 0 ? `, ${figure(saved)} fewer than if nothing were cut off.` : "."}{" "}
        <span className="quiet">{picture.more > 0 ? `${picture.more} parts further away are not shown.` : "Press a part to see what it touches, and to say what becomes of it."}</span>
      </p>
      <div className="mt-3 max-h-[46vh] overflow-auto rounded border bg-[var(--paper)] p-3 hair" tabIndex={0} role="region" aria-label="Parts">
        <div className="quiet relative h-5 text-[12px]" style={{ width }}>
          {depths.map((depth) => (
            <span key={depth} className="absolute top-0" style={{ left: depth * COLUMN }}>
              {STEPS[depth] ?? `${depth} steps`}
            </span>
          ))}
        </div>
        <div className="relative" style={{ width, height }}>
          <svg width={width + 30} height={height} className="pointer-events-none absolute inset-0 overflow-visible" aria-hidden="true">
            {picture.arrows.map((arrow) => {
              const [from, to] = [all[arrow.source], all[arrow.target]];
              const lit = arrow.source === chosen || arrow.target === chosen;
              return from && to ? <path key={`${arrow.source} ${arrow.target}`} d={curve(from, to)} fill="none" stroke={lit ? "var(--press)" : "var(--rule)"} strokeWidth={lit ? 2 : 1.3} /> : null;
            })}
          </svg>
          {all.map(({ box: each, x, y }, i) => (
            <PartButton key={`${each.file} ${each.line}`} box={each} on={i === chosen} near={near.has(i)} style={{ left: x, top: y, width: WIDTH, height: HEIGHT }} press={() => choose(i)} />
          ))}
        </div>
      </div>
      {box && <Fate slug={slug} box={box} isHandler={box.depth === 0} />}
    </>
  );
}

type ButtonProps = { box: PartBox; on: boolean; near: boolean; style: React.CSSProperties; press: () => void };

function PartButton({ box, on, near, style, press }: ButtonProps) {
  const edge = on ? "var(--press)" : near ? "var(--ink2)" : "var(--rule)";
  const tone = box.choice === "bridge" ? "var(--amber)" : "var(--sheet)";
  return (
    <button
      type="button"
      aria-pressed={on}
      className="absolute overflow-hidden rounded-[5px] border-2 px-2 text-left leading-tight"
      style={{ ...style, borderColor: edge, background: tone, borderStyle: box.choice === "bring" ? "solid" : "dashed", color: box.choice === "bridge" ? "var(--on-light)" : undefined }}
      onClick={press}
      title={`${box.file}:${box.line}`}
    >
      <span className={`block truncate font-mono text-[12.5px] font-semibold ${box.choice === "leave" ? "line-through opacity-60" : ""}`}>{box.name}</span>
      {box.choice !== "bring" && <span className="sr-only">{box.choice === "bridge" ? " shared through a bridge " : " left out "}</span>}
      <span className={`block truncate text-[11.5px] ${box.choice === "bridge" ? "" : "quiet"}`}>
        {box.lines} {box.lines === 1 ? "line" : "lines"}
        {box.others > 0 ? ` · ${box.others} more ${box.others === 1 ? "route needs" : "routes need"} it` : ""}
      </span>
    </button>
  );
}

function Fate({ slug, box, isHandler }: { slug: string; box: PartBox; isHandler: boolean }) {
  const { part } = useCrossing(slug);
  return (
    <fieldset className="mt-3 border-t pt-3 hair" disabled={isHandler || part.isPending}>
      <legend className="sr-only">What becomes of {box.name}</legend>
      <p className="text-[13.5px]">
        <b className="font-mono">{box.name}</b> <span className="quiet">{`${box.file}:${box.line}`}</span>
        {isHandler && <span className="quiet"> – the handler moves with its route.</span>}
        {!isHandler && box.others > 0 && <span className="quiet">{` – what you say holds for the ${box.others} other ${box.others === 1 ? "route" : "routes"} too.`}</span>}
      </p>
      {!isHandler && (
        <div className="mt-1.5 flex flex-wrap gap-x-6 gap-y-1 text-[13.5px]">
          {CHOICES.map(([choice, label, meaning]) => (
            <label key={choice} className="flex items-center gap-1.5">
              <input type="radio" name="fate" checked={box.choice === choice} onChange={() => part.mutate({ file: box.file, name: box.name, choice })} />
              {label} <span className="quiet">– {meaning}</span>
            </label>
          ))}
        </div>
      )}
    </fieldset>
  );
}
