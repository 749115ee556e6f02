/** What Yoake does by itself: scanning again, looking records up, a digest of what changed. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { put } from "../../api/client";
import { watchQuery } from "../../api/queries";
import type { Watch } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { useTold } from "../../components/useTold";
import { moment } from "../../lib/format";

export function WatchDialog({ close }: { close: () => void }) {
  const query = useQuery(watchQuery);
  return (
    <Dialog title="Standing watch" close={close}>
      {query.data ? <Schedule key={query.data.version} watch={query.data} close={close} /> : <Waiting what="the schedule" />}
    </Dialog>
  );
}

const ROWS = [
  ["rescan_days", "Scan every application again", "rescanned_at"],
  ["next_days", "Scan against the lines after the destinations", "next_at"],
  ["records_days", "Look up releases and support ends", "looked_up_at"],
  ["digest_days", "Make a digest of what changed", "digest_at"],
] as const;

function Schedule({ watch, close }: { watch: Watch; close: () => void }) {
  const [days, setDays] = useState<Record<string, string>>({ rescan_days: String(watch.rescan_days), records_days: String(watch.records_days), digest_days: String(watch.digest_days), next_days: String(watch.next_days) });
  const [to, setTo] = useState(watch.mail_to);
  const client = useQueryClient();
  const toast = useToast();
  const told = useTold();
  const save = useMutation({
    mutationFn: () => put<Watch>("/watch", { ...Object.fromEntries(Object.entries(days).map(([name, value]) => [name, Number(value)])), mail_to: to, version: watch.version }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["watch"] });
      toast("The schedule is saved.");
      close();
    },
    onError: told,
  });
  return (
    <form
      className="flex flex-col gap-3 text-[14px]"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      {ROWS.map(([name, words, last]) => (
        <label key={name} className="grid grid-cols-[1fr_auto_auto] items-center gap-2">
          <span>
            {words}
            <span className="quiet block text-[12.5px]">last: {moment(watch[last])}</span>
          </span>
          <span className="quiet">every</span>
          <span>
            <input className="field w-20" type="number" min="0" max="366" required aria-label={`${words}, every so many days`} value={days[name] ?? "0"} onChange={(e) => setDays({ ...days, [name]: e.target.value })} /> days
          </span>
        </label>
      ))}
      <label className="flex flex-col gap-1">
        The digest goes to
        <input className="field w-full" value={to} placeholder="addresses with commas between; empty: a file only" onChange={(e) => setTo(e.target.value)} />
      </label>
      <p className="quiet text-[13px]">0 days is never. Digests always lie in the folder “digests” of your records; they are mailed where YOAKE_SMTP names a server.</p>
      <button type="submit" className="press press-main self-start" disabled={save.isPending}>
        Save
      </button>
    </form>
  );
}
