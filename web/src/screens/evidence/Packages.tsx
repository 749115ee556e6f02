/** Packages against stages: which release to take at each, why none fits, and a library made known with one press. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";

import { post } from "../../api/client";
import { packagesQuery } from "../../api/queries";
import type { PackageCell, PackageRow, StageHead } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { plural } from "../../lib/format";

export function Packages({ slug, scannedAt, text }: { slug: string; scannedAt: string; text: string }) {
  const query = useQuery(packagesQuery(slug, scannedAt));
  if (query.isPending) return <Waiting what="the packages" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const { rows, stages } = query.data;
  if (rows.length === 0) return <p className="quiet p-[22px]">No manifest here asks for a package.</p>;
  const shown = rows.filter((row) => row.name.toLowerCase().includes(text.toLowerCase()));
  const touched = shown.filter((row) => !isApart(row));
  const apart = shown.filter(isApart);
  const direct = touched.filter((row) => row.direct);
  const locked = touched.filter((row) => !row.direct);
  const telling = text ? locked.slice(0, MOST) : locked.filter(speaks).slice(0, MOST);
  return (
    <div className="min-h-0 grow overflow-auto px-[22px] py-3" tabIndex={0} role="region" aria-label="Packages against stages">
      {shown.length === 0 && <p className="quiet">No package is called “{text}”. Empty the filter to see all {rows.length}.</p>}
      {direct.length > 0 && <Grid rows={direct} stages={stages} title={`asked for by the manifests · ${direct.length}`} />}
      {telling.length > 0 && <Grid rows={telling} stages={stages} title={`only in lock files, and not fitting · ${telling.length}`} />}
      {locked.length > telling.length && (
        <p className="quiet text-[13.5px]">
          {plural(locked.length - telling.length, "other package")} of the lock files {text ? "match" : "fit or are not known"}. Type a name to see one.
        </p>
      )}
      {apart.length > 0 && (
        <section aria-label="Packages that this path does not touch" className="mt-3 max-w-[80ch] text-[13.5px]">
          <h2 className="font-semibold">{plural(apart.length, "package")} that this path does not touch</h2>
          <p className="quiet">
            {apart[0]?.cells[0]?.why}, so they stay as they are. To plan them too, give the application a destination that names it, on the{" "}
            <Link to="/" className="underline">
              Horizon
            </Link>
            .
          </p>
          <p className="mt-1 break-words">{named(apart, text)}</p>
        </section>
      )}
    </div>
  );
}

/** Those that the manifests ask for by name, and how many more there are; with a filter all that match. */
function named(apart: PackageRow[], text: string): string {
  const asked = text ? apart.slice(0, MOST) : apart.filter((row) => row.direct);
  const names = asked.map((row) => row.name).join(", ");
  const more = apart.length - asked.length;
  if (!more) return names;
  return names ? `${names}, and ${more} that only lock files name` : `${more} that only lock files name`;
}

function isApart(row: PackageRow): boolean {
  return row.cells.length > 0 && row.cells.every((cell) => cell.state === "apart");
}

const MOST = 300; // rows; more is found by typing

function speaks(row: PackageRow): boolean {
  return row.state === "fails" || row.cells.some((cell) => cell.state === "none" || cell.state === "change");
}

function Grid({ rows, stages, title }: { rows: PackageRow[]; stages: StageHead[]; title: string }) {
  return (
    <table className="mb-6 w-full text-[13.5px]">
      <caption className="quiet pb-1 text-left text-[13px]">{title}</caption>
      <thead>
        <tr className="border-b text-left align-bottom text-[13px] hair">
          <th className="w-56 py-1 font-normal quiet">package</th>
          <th className="w-36 font-normal quiet">today</th>
          {stages.map((stage) => (
            <th key={stage.number} className="font-semibold" title={stage.lines.join(", ")}>
              {stage.number} · {stage.title}
            </th>
          ))}
          {stages.length === 0 && <th className="font-normal quiet">no stage moves a runtime</th>}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.coordinate + row.module} className="border-b align-top hair">
            <td className="py-1.5 pr-3">
              <code className="font-semibold break-all">{row.name}</code>
              {row.breaks.length > 0 && (
                <span className="quiet block text-[12.5px] break-all" title={row.breaks.join("\n")}>
                  loses {row.breaks[0]?.split(": ")[1]} at {row.breaks[0]?.split(":")[0]}
                </span>
              )}
              {!row.known && row.makeable && row.direct && <MakeKnown coordinate={row.coordinate} name={row.name} />}
            </td>
            <td className="py-1.5 pr-3" title={row.where}>
              {row.today || "not stated"} <span className="quiet break-all">{row.wanted}</span>
            </td>
            {row.cells.map((cell, i) => (
              <Choice key={stages[i]?.number ?? i} cell={cell} />
            ))}
            {stages.length === 0 && <td className="quiet">{row.note}</td>}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Choice({ cell }: { cell: PackageCell }) {
  if (cell.state === "apart") return <td className="quiet py-1.5 pr-3">stays: {cell.why}</td>;
  if (cell.state === "unknown") return <td className="quiet py-1.5 pr-3">not known: {cell.why}</td>;
  if (cell.state === "none") {
    return (
      <td className="py-1.5 pr-3">
        <b className="text-[var(--rose-text)]">none fits</b> <span className="quiet">{cell.why}</span>
      </td>
    );
  }
  if (cell.why === "moves with the path") return <td className="py-1.5 pr-3">{cell.take} <span className="quiet">moves with the path</span></td>;
  return (
    <td className="py-1.5 pr-3">
      <b>{cell.state === "keeps" ? "stays" : `take ${cell.take}`}</b>{" "}
      <span className="quiet">
        {cell.state === "keeps" ? `${cell.why}; newest ${cell.take}` : cell.why}
        {cell.clean && cell.clean !== cell.take && `; without new findings ${cell.clean}`}
        {cell.clean === cell.take && cell.take && "; nothing this code uses is lost"}
        {cell.stated ? "; support stated" : ""}
      </span>
    </td>
  );
}

function MakeKnown({ coordinate, name }: { coordinate: string; name: string }) {
  const client = useQueryClient();
  const toast = useToast();
  const ask = useMutation({
    mutationFn: () => post<{ job: number }>("/knowledge", { coordinate }),
    onSuccess: () => {
      toast(`${name} is being read, every line of it. What uses it is scanned again afterwards.`);
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
  return (
    <button type="button" className="press press-quiet mt-0.5 underline" disabled={ask.isPending || ask.isSuccess} onClick={() => ask.mutate()}>
      {ask.isSuccess ? "asked for" : "make it known"}
    </button>
  );
}
