/** Folders as a graph: direction of use, loops, and how much of each fails. */
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { graphQuery } from "../../api/queries";
import { Failed, Waiting } from "../../components/States";
import { plural } from "../../lib/format";
import { type Box, commonFolder, layout, type Line } from "./moduleLayout";

const WIDTH = 930;
const MOST_DRAWN = 5; // folders of a loop whose lines are always drawn

export function Modules({ slug, scannedAt, open }: { slug: string; scannedAt: string; open: (folder: string) => void }) {
  const query = useQuery(graphQuery(slug, scannedAt));
  const [chosen, choose] = useState<string | null>(null);
  const laid = useMemo(() => (query.data ? layout(query.data.parts, query.data.edges, WIDTH) : null), [query.data]);
  if (query.isPending) return <Waiting what="who uses whom" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (!laid || laid.boxes.length === 0) return <p className="quiet p-[22px]">No source file was read here.</p>;
  const loops = new Set(query.data.parts.map((p) => p.cycle).filter(Boolean)).size;
  const crowded = crowdedLoops(laid.boxes);
  const unit = laid.boxes.every((b) => b.files === 1 && /\.\w+$/.test(b.path)) ? "file" : "folder";
  const box = laid.boxes.find((b) => b.path === chosen);
  return (
    <div className="grid min-h-0 grow grid-cols-[minmax(0,1fr)_300px]">
      <div className="overflow-auto p-4" tabIndex={0} role="region" aria-label="Module references">
        <p className="quiet mb-2 text-[13.5px]">
          {plural(laid.boxes.length, unit)}; a line goes from the user down to what it uses. {loops ? `${plural(loops, "loop")} ${loops === 1 ? "is" : "are"} drawn dashed: those ${unit}s can only move together.${crowded.size ? " Press one to see its lines." : ""}` : "There is no loop: the lowest can move first."}
        </p>
        <svg width={WIDTH} height={laid.height} role="group" aria-label={`Graph of ${unit}s`}>
          <defs>
            <marker id="uses" viewBox="0 0 8 8" refX="7" refY="4" markerUnits="userSpaceOnUse" markerWidth="8" markerHeight="8" orient="auto">
              <path d="M1 1L7 4L1 7" fill="none" stroke="var(--ink2)" strokeWidth="1.3" />
            </marker>
          </defs>
          {laid.lines.map((line) => (
            <Use key={`${line.source}>${line.target}`} line={line} lit={chosen === null || line.source === chosen || line.target === chosen} loop={isLoop(laid.boxes, line)} hidden={isCrowded(laid.boxes, line, crowded) && line.source !== chosen && line.target !== chosen} />
          ))}
          {laid.boxes.map((b) => (
            <Folder key={b.path} box={b} chosen={b.path === chosen} choose={() => choose(b.path === chosen ? null : b.path)} />
          ))}
        </svg>
      </div>
      <aside className="overflow-auto border-l p-4 text-[13.5px] hair" aria-label={`Chosen ${unit}`}>
        {box ? <Chosen box={box} lines={laid.lines} open={open} /> : <Lonely files={query.data.lonely} common={commonFolder(query.data.parts.map((p) => p.path))} />}
      </aside>
    </div>
  );
}

function isLoop(boxes: Box[], line: Line): boolean {
  const [a, b] = [boxes.find((x) => x.path === line.source), boxes.find((x) => x.path === line.target)];
  return !!a?.cycle && a.cycle === b?.cycle;
}

/** Loops of so many folders that their lines would cross everything: drawn for the chosen folder only. */
function crowdedLoops(boxes: Box[]): Set<number> {
  const sizes = new Map<number, number>();
  for (const box of boxes) sizes.set(box.cycle, (sizes.get(box.cycle) ?? 0) + 1);
  return new Set([...sizes].filter(([cycle, size]) => cycle && size > MOST_DRAWN).map(([cycle]) => cycle));
}

function isCrowded(boxes: Box[], line: Line, crowded: Set<number>): boolean {
  return isLoop(boxes, line) && crowded.has(boxes.find((x) => x.path === line.source)?.cycle ?? 0);
}

function Use({ line, lit, loop, hidden }: { line: Line; lit: boolean; loop: boolean; hidden: boolean }) {
  if (hidden) return null;
  return (
    <path d={line.d} fill="none" stroke={loop ? "var(--rose-text)" : "var(--ink2)"} strokeDasharray={loop ? "5 3" : undefined} strokeWidth={Math.min(1 + Math.log10(line.count), 3)} opacity={lit ? 0.85 : 0.12} markerEnd="url(#uses)">
      <title>{`${line.source || "top folder"} uses ${line.target || "top folder"} ${line.count} times`}</title>
    </path>
  );
}

function Folder({ box, chosen, choose }: { box: Box; chosen: boolean; choose: () => void }) {
  const all = box.fails + box.holds;
  const share = all ? box.fails / all : 0;
  const said = `${box.path || "top folder"}: ${plural(box.files, "file")}, ${plural(box.lines, "line")}, ${Math.round(share * 100)} % of the weight fails${box.cycle ? ", part of a loop" : ""}`;
  return (
    <g>
      <rect
        role="button"
        tabIndex={0}
        aria-label={said}
        aria-pressed={chosen}
        className="cursor-pointer"
        onClick={choose}
        onKeyDown={(e) => (e.key === "Enter" || e.key === " ") && choose()}
        x={box.x}
        y={box.y}
        width={box.width}
        height={box.height}
        rx={5}
        fill="var(--sheet)"
        stroke={chosen ? "var(--press)" : "var(--line)"}
        strokeWidth={chosen ? 2.4 : 1}
        strokeDasharray={box.cycle ? "5 3" : undefined}
      >
        <title>{said}</title>
      </rect>
      <rect pointerEvents="none" x={box.x + 8} y={box.y + 34} width={box.width - 16} height={4} fill="var(--day)" />
      <rect pointerEvents="none" x={box.x + 8} y={box.y + 34} width={(box.width - 16) * share} height={4} fill="var(--dusk)" />
      <text aria-hidden="true" pointerEvents="none" x={box.x + 8} y={box.y + 16} fontSize="12.5" fontWeight="600" fill="var(--ink)">
        {box.label.length > 30 ? `…${box.label.slice(-29)}` : box.label}
      </text>
      <text aria-hidden="true" pointerEvents="none" x={box.x + 8} y={box.y + 29} fontSize="10.5" fill="var(--ink2)">
        {plural(box.lines, "line")}
      </text>
    </g>
  );
}

function Chosen({ box, lines, open }: { box: Box; lines: Line[]; open: (folder: string) => void }) {
  const groups: [string, string[]][] = [
    ["uses", lines.filter((l) => l.source === box.path).map((l) => `${l.target || "top folder"} · ${l.count}`)],
    ["is used by", lines.filter((l) => l.target === box.path).map((l) => `${l.source || "top folder"} · ${l.count}`)],
  ];
  return (
    <>
      <h2 className="mb-1 font-bold break-words">{box.path || "top folder"}</h2>
      <p className="quiet mb-3">
        {plural(box.files, "file")}, {plural(box.lines, "line")}; {box.fails} min of weight fail, {box.holds} hold.
      </p>
      {groups.map(([word, listed]) => (
        <section key={word} className="mb-3">
          <h3 className="quiet">{word}</h3>
          {listed.length === 0 && <p>nothing here</p>}
          <ul>
            {listed.map((text) => (
              <li key={text} className="break-words">
                <code>{text}</code>
              </li>
            ))}
          </ul>
        </section>
      ))}
      <button type="button" className="press" onClick={() => open(box.path)}>
        Its findings
      </button>
    </>
  );
}

function Lonely({ files, common }: { files: string[]; common: string }) {
  return (
    <>
      <h2 className="mb-1 font-bold">Files that nothing refers to</h2>
      <p className="quiet mb-2">No import in the application leads to them, and they do not look like an entry. Ask whether they are still alive before moving them.</p>
      {files.length === 0 && <p>There is none.</p>}
      <ul>
        {files.slice(0, 60).map((file) => (
          <li key={file} className="break-words">
            <code>{common && file.startsWith(`${common}/`) ? file.slice(common.length + 1) : file}</code>
          </li>
        ))}
      </ul>
      {files.length > 60 && <p className="quiet">and {files.length - 60} more</p>}
    </>
  );
}
