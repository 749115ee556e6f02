/** Bend the search: leave parts out, pin a line, forbid one, fix an order. What is asked for stands in the address. */
import { useState } from "react";

import type { PathView, TrackView, Way } from "../../api/types";
import { shortOf } from "../../lib/coordinates";
import { bendOf, isBent, type Key, KEYS, toggled, unbent, withLine } from "./shape";

const WORDS: Record<Key, (value: string) => string> = {
  pin: (value) => `stop on ${value.replace("@", " ")}`,
  avoid: (value) => `never on ${value.replace("@", " ")}`,
  order: (value) => value.replace(">", " before "),
  out: (value) => `without ${value}`,
  drop: (value) => `not looking at ${value}`,
};

type Props = { path: PathView; way: Way | undefined; params: URLSearchParams; go: (next: URLSearchParams) => void };

export function Adjust({ path, way, params, go }: Props) {
  const [open, setOpen] = useState(false);
  const bend = bendOf(params);
  return (
    <section aria-label="Adjust the search" className="border-b py-1.5 hair">
      <div className="flex flex-wrap items-center gap-2 text-[13.5px]">
        <button type="button" className="press press-quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Close" : "Adjust"}
        </button>
        {!isBent(bend) && !open && <span className="quiet">leave parts out, pin a line, rule one out, fix an order: the search runs again</span>}
        {KEYS.flatMap((key) =>
          bend[key].map((value) => (
            <button key={key + value} type="button" className="press" aria-label={`Take back: ${WORDS[key](value)}`} onClick={() => go(toggled(params, key, value))}>
              {WORDS[key](value)} ×
            </button>
          )),
        )}
        {isBent(bend) && (
          <button type="button" className="press press-quiet" onClick={() => go(unbent(params))}>
            as it was
          </button>
        )}
      </div>
      {open && (
        <>
          <table className="mt-1 text-[13.5px]">
            <thead>
              <tr className="quiet text-left text-[12.5px]">
                <th className="pr-6 font-normal">included</th>
                <th className="pr-6 font-normal">today</th>
                <th className="pr-6 font-normal">stop on</th>
                <th className="pr-6 font-normal">never on</th>
                <th className="font-normal">comes along</th>
              </tr>
            </thead>
            <tbody>
              {path.tracks.map((track) => (
                <Part key={track.coordinate} track={track} way={way} params={params} go={go} />
              ))}
              {bend.drop.map((short) => (
                <tr key={short}>
                  <td>
                    <label className="flex items-center gap-2">
                      <input type="checkbox" className="checkbox checkbox-xs" checked={false} onChange={() => go(toggled(params, "drop", short))} /> <code>{short}</code>
                    </label>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Order path={path} params={params} go={go} />
        </>
      )}
    </section>
  );
}

type PartProps = { track: TrackView; way: Way | undefined; params: URLSearchParams; go: (next: URLSearchParams) => void };

function Part({ track, way, params, go }: PartProps) {
  const short = shortOf(track.coordinate);
  const held = (key: "pin" | "avoid") => params.getAll(key).find((v) => v.startsWith(`${short}@`))?.slice(short.length + 1) ?? "";
  const lines = track.lines.map((l) => l.line);
  const moved = way?.stages.flatMap((s) => s.cells.filter((c) => c.coordinate === track.coordinate && c.moved)) ?? [];
  const dragged = track.out || !track.named ? moved.at(-1) : undefined;
  const select = (key: "pin" | "avoid", label: string, choices: string[]) => (
    <select aria-label={`${label} of ${track.name}`} className="field h-7 w-28" value={held(key)} onChange={(e) => go(withLine(params, key, short, e.target.value))}>
      <option value="">any</option>
      {choices.map((line) => (
        <option key={line}>{line}</option>
      ))}
    </select>
  );
  return (
    <tr>
      <td className="pr-6">
        <label className="flex items-center gap-2">
          <input type="checkbox" className="checkbox checkbox-xs" checked={!track.out} onChange={() => go(toggled(params, track.named ? "out" : "drop", short))} /> <code>{track.name}</code>
        </label>
      </td>
      <td className="code quiet pr-6">{track.today}</td>
      <td className="pr-6">{select("pin", "Line to stop on", lines)}</td>
      <td className="pr-6">{select("avoid", "Line never to stand on", lines.filter((l) => l !== track.goal))}</td>
      <td className="quiet max-w-[460px] truncate" title={dragged?.reason}>
        {dragged ? `to ${dragged.line}: ${dragged.reason}` : ""}
      </td>
    </tr>
  );
}

function Order({ path, params, go }: { path: PathView; params: URLSearchParams; go: (next: URLSearchParams) => void }) {
  const [first, setFirst] = useState("");
  const [then, setThen] = useState("");
  const choices = path.tracks.filter((t) => t.named);
  if (choices.length < 2) return null;
  const pick = (label: string, value: string, set: (v: string) => void) => (
    <select aria-label={label} className="field h-7 w-36" value={value} onChange={(e) => set(e.target.value)}>
      <option value="">…</option>
      {choices.map((t) => (
        <option key={t.coordinate} value={shortOf(t.coordinate)}>
          {t.name}
        </option>
      ))}
    </select>
  );
  return (
    <form
      className="mt-2 flex items-center gap-2 text-[13.5px]"
      onSubmit={(event) => {
        event.preventDefault();
        go(toggled(params, "order", `${first}>${then}`));
      }}
    >
      {pick("What arrives first", first, setFirst)} arrives before {pick("What moves afterwards", then, setThen)} moves
      <button type="submit" className="press" disabled={!first || !then || first === then}>
        Ask for it
      </button>
    </form>
  );
}
