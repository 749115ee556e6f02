/** What a stage needs on this machine before it is begun, asked for when somebody wants to know. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { preflightQuery } from "../../api/queries";

export function Preflight({ slug, stage }: { slug: string; stage: number }) {
  const [open, setOpen] = useState(false);
  const query = useQuery({ ...preflightQuery(slug, stage), enabled: open });
  const missing = query.data?.filter((check) => check.state === "missing").length ?? 0;
  return (
    <details className="mt-3 text-[13px]" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer font-semibold">Before it begins{query.data && (missing ? `: ${missing} missing` : ": all there")}</summary>
      {query.isError && <p className="text-[var(--rose-text)]">{query.error.message}</p>}
      {query.isPending && open && <p className="quiet">Looking …</p>}
      <ul className="mt-1 flex flex-col gap-1">
        {query.data?.map((check) => (
          <li key={check.title} className={check.state === "missing" ? "font-semibold" : ""}>
            {check.title}: <span className={check.state === "missing" ? "text-[var(--rose-text)]" : "quiet"}>{check.said}</span>
            {check.remedy && <span className="quiet block font-normal">{check.remedy}</span>}
          </li>
        ))}
      </ul>
    </details>
  );
}
