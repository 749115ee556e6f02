/** Packages against stages: which release to take at each, why none fits, and a library made known with one press. */
import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";

import { post } from "../../api/client";
import { packagesQuery } from "../../api/queries";
import type { PackageCell, PackageRow, PackageWindow, StageHead } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { plural } from "../../lib/format";

export function Packages({ slug, scannedAt, text }: { slug: string; scannedAt: string; text: string }) {
  const query = useInfiniteQuery(packagesQuery(slug, scannedAt, text));
  if (query.isPending) return <Waiting what="the packages" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const [first] = query.data.pages;
  if (!first || first.held === 0) return <p className="quiet p-[22px]">No manifest here asks for a package.</p>;
  const rows = query.data.pages.flatMap((page) => page.rows);
  const direct = rows.filter((row) => row.direct);
  const untried = direct.filter((row) => row.try_on);
  const telling = rows.filter((row) => !row.direct);
  return (
    <div className="min-h-0 grow overflow-auto px-[22px] py-3" tabIndex={0} role="region" aria-label="Packages against stages">
      {first.total + first.quiet + first.apart === 0 && <p className="quiet">No package is called “{text}”. Empty the filter to see all {first.held}.</p>}
      {first.unknown > 0 && <LookUp slug={slug} unknown={first.unknown} direct={first.direct} />}
      {untried.length > 1 && <TryAll rows={untried} />}
      {direct.length > 0 && <Grid rows={direct} stages={first.stages} title={`asked for by the manifests · ${first.direct}`} />}
      {telling.length > 0 && <Grid rows={telling} stages={first.stages} title={`only in lock files${text ? "" : ", and not fitting"} · ${first.total - first.direct}`} />}
      {query.hasNextPage && (
        <button type="button" className="press mb-4" disabled={query.isFetchingNextPage} onClick={() => void query.fetchNextPage()}>
          {rows.length} of {first.total} packages are shown; show more
        </button>
      )}
      {first.quiet > 0 && <p className="quiet text-[13.5px]">{plural(first.quiet, "other package")} of the lock files fit or are not known. Type a name to see one.</p>}
      {first.apart > 0 && (
        <section aria-label="Packages that this path does not touch" className="mt-3 max-w-[80ch] text-[13.5px]">
          <h2 className="font-semibold">{plural(first.apart, "package")} that this path does not touch</h2>
          <p className="quiet">
            {first.apart_why}, so they stay as they are. To plan them too, give the application a destination that names it, on the{" "}
            <Link to="/" className="underline">
              Horizon
            </Link>
            .
          </p>
          <p className="mt-1 break-words">{named(first)}</p>
        </section>
      )}
    </div>
  );
}

/** Those that the manifests ask for by name, and how many more there are; with a filter all that match. */
function named({ apart, apart_named }: PackageWindow): string {
  const names = apart_named.join(", ");
  const more = apart - apart_named.length;
  if (!more) return names;
  return names ? `${names}, and ${more} more` : `${more} that only lock files name`;
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
              {row.grade === "tried" && (
                <span className="block text-[12.5px]" title={row.note}>
                  {row.state === "holds" ? "tried there: installs and imports" : <b className="text-[var(--rose-text)]">tried there: it does not run</b>}
                </span>
              )}
              {row.try_on && row.direct && <TryIt row={row} />}
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
  return (
    <td className="py-1.5 pr-3">
      <b>{cell.state === "keeps" ? "stays" : `take ${cell.take}`}</b>{" "}
      <span className="quiet">
        {cell.why}
        {cell.clean && cell.clean !== cell.take && `; without new findings ${cell.clean}`}
        {cell.clean === cell.take && cell.take && "; nothing this code uses is lost"}
        {cell.stated ? "; support stated" : ""}
      </span>
    </td>
  );
}

/** Asks for releases to be installed and imported for real, which says more than any record of them. */
function useTrials(rows: PackageRow[]) {
  const client = useQueryClient();
  const toast = useToast();
  return useMutation({
    mutationFn: async () => {
      for (const row of rows) await post<{ job: number }>("/knowledge/trials", { coordinate: row.coordinate, release: row.release, on: row.try_on });
    },
    onSuccess: () => {
      const what = rows.length === 1 ? `${rows[0]?.name} ${rows[0]?.release} is` : `${rows.length} releases are`;
      toast(`${what} being installed and imported on ${said(rows[0])}. What uses them is scanned again afterwards.`);
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
}

/** A line as people say it: python@3.13 is Python 3.13. */
function said(row: PackageRow | undefined): string {
  const line = row?.try_on ?? "";
  return line.slice(0, 1).toUpperCase() + line.slice(1).replace("@", " ");
}

/** One press for all packages of which no release record is known. */
function LookUp({ slug, unknown, direct }: { slug: string; unknown: number; direct: number }) {
  const client = useQueryClient();
  const toast = useToast();
  const ask = useMutation({
    mutationFn: () => post<{ jobs: number[] }>("/knowledge/records", { applications: [slug] }),
    onSuccess: () => {
      toast(`${plural(unknown, "package")} being looked up. What uses them is scanned again afterwards.`);
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
  return (
    <p className="mb-2 text-[13.5px]">
      Of {unknown} of {plural(direct, "package")} nothing is known, so no stage can say what to take.{" "}
      <button type="button" className="press press-quiet underline" title="Asks the package clients for their releases; the names leave this machine" disabled={ask.isPending || ask.isSuccess} onClick={() => ask.mutate()}>
        {ask.isSuccess ? "asked for" : `look up ${unknown === 1 ? "the one" : `all ${unknown}`}`}
      </button>
    </p>
  );
}

/** One press for all that nothing says anything of. */
function TryAll({ rows }: { rows: PackageRow[] }) {
  const ask = useTrials(rows);
  return (
    <p className="mb-2 text-[13.5px]">
      {rows.length} of the releases asked for here were never run on {said(rows[0])}.{" "}
      <button type="button" className="press press-quiet underline" disabled={ask.isPending || ask.isSuccess} onClick={() => ask.mutate()}>
        {ask.isSuccess ? "asked for" : `try all ${rows.length}`}
      </button>
    </p>
  );
}

function TryIt({ row }: { row: PackageRow }) {
  const ask = useTrials([row]);
  return (
    <button
      type="button"
      className="press press-quiet mt-0.5 -ml-[7px] block text-left underline"
      title={`Install ${row.name} ${row.release} with what it asks for in a throw-away environment on ${said(row)}, and import it`}
      disabled={ask.isPending || ask.isSuccess}
      onClick={() => ask.mutate()}
    >
      {ask.isSuccess ? "asked for" : `try ${row.release}`}
    </button>
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
