/** Whether an application's code may be run, and how. Off until a person turns it on. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { put } from "../../api/client";
import { commandsQuery } from "../../api/queries";
import type { RunSettings } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { useToast } from "../../components/Toasts";

type Props = { slug: string; name: string; settings: RunSettings; modules: string[]; close: () => void };

export function Settings({ slug, name, settings, modules, close }: Props) {
  const [module, setModule] = useState(settings.module);
  const [command, setCommand] = useState(settings.command);
  const [beside, setBeside] = useState(settings.beside);
  const [asks, setAsks] = useState(settings.asks);
  const [minutes, setMinutes] = useState(String(settings.minutes));
  const client = useQueryClient();
  const toast = useToast();
  const found = useQuery(commandsQuery(slug, module));
  const send = useMutation({
    mutationFn: (allowed: boolean) => put(`/applications/${encodeURIComponent(slug)}/runs/settings`, { allowed, module, command, beside, asks, minutes: Number(minutes) }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["proof", slug] });
      close();
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
  const first = found.data?.find((one) => (one.kind === "serve") === (asks.trim() !== ""));
  return (
    <Dialog title={`How ${name} is run`} close={close} wide>
      <form
        className="flex flex-col gap-3 text-[14px]"
        onSubmit={(event) => {
          event.preventDefault();
          send.mutate(true);
        }}
      >
        <p>
          Its own code is run, and what it installs. Each run has a fresh copy, an environment of its own and limits on time, memory, processes and output; it can still reach the network and read what this server can. <b>Only turn this on for code you trust.</b>
        </p>
        {modules.length > 1 && (
          <label className="flex flex-col gap-1">
            <b>Folder</b>
            <select className="field" value={module} onChange={(e) => setModule(e.target.value)}>
              {modules.map((one) => (
                <option key={one} value={one}>
                  {one || "the root"}
                </option>
              ))}
            </select>
          </label>
        )}
        <label className="flex flex-col gap-1">
          <b>Command</b>
          <input className="field w-full" value={command} list="commands" placeholder={first ? `${first.words}   (from ${first.why})` : "as its files say"} onChange={(e) => setCommand(e.target.value)} />
          <datalist id="commands">{found.data?.map((one) => <option key={one.words} value={one.words} label={`${one.name}, from ${one.why}`} />)}</datalist>
          {found.isError && <span className="text-[var(--rose-text)]">{found.error.message}</span>}
          {found.data && !first && <span className="quiet">No file here says how {asks.trim() === "" ? "its tests are run" : "it is served"}: write the command.</span>}
        </label>
        <label className="flex flex-col gap-1">
          <b>Packages it needs besides</b>
          <input className="field w-full" value={beside} placeholder="none: what its files ask for is enough" onChange={(e) => setBeside(e.target.value)} />
        </label>
        <label className="flex flex-col gap-1">
          <b>Paths to ask for</b>
          <input className="field w-full" value={asks} placeholder="/ /health   where the command is a server; none: it runs tests" onChange={(e) => setAsks(e.target.value)} />
          {asks.trim() !== "" && <span className="quiet">The server is started on both sides and has to listen on the port that PORT, or {"{port}"} in its command, names. A path is alike where its status is.</span>}
        </label>
        <label className="flex items-center gap-2">
          <b>At most</b>
          <input className="field w-20" type="number" min={0.1} max={600} step="any" value={minutes} onChange={(e) => setMinutes(e.target.value)} />
          minutes a command
        </label>
        <div className="flex gap-3">
          <button type="submit" className="press press-main" disabled={send.isPending}>
            {settings.allowed ? "Keep" : "Turn runs on"}
          </button>
          {settings.allowed && (
            <button type="button" className="press" disabled={send.isPending} onClick={() => send.mutate(false)}>
              Turn runs off
            </button>
          )}
        </div>
      </form>
    </Dialog>
  );
}
