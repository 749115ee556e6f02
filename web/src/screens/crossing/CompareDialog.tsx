/** Are both sides alike? Recorded requests asked of both, and a log-in that has to hold on either. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { post } from "../../api/client";
import type { CrossingView, SideLogin } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { FileButton } from "../../components/FileButton";
import { useToast } from "../../components/Toasts";
import { useTold } from "../../components/useTold";
import { moment } from "../../lib/format";
import { formOf } from "./formOf";
import { useBring } from "./useBring";

type Props = { slug: string; crossing: CrossingView };

export function CompareDialog({ slug, crossing, close }: Props & { close: () => void }) {
  return (
    <Dialog title="Compare both sides" close={close} wide>
      <Recording slug={slug} crossing={crossing} />
      <Login slug={slug} crossing={crossing} />
    </Dialog>
  );
}

function Recording({ slug, crossing }: Props) {
  const say = useToast();
  const bring = useBring<{ job: number }>(slug, "recording", () => say("Both sides are being asked; what differs shows at each route."));
  return (
    <section aria-label="Recorded requests" className="text-[14px]">
      <h3 className="font-bold">Recorded requests</h3>
      <p className="quiet mt-1">A HAR file, as a browser saves it. Both sides are asked what changes nothing, and what a route was declared safe for; the file is dropped afterwards.</p>
      <p className="mt-2 flex items-center gap-3">
        <FileButton what="A recording" accept=".har,.json" busy={bring.isPending} take={bring.mutate}>
          {bring.isPending ? "Handing over …" : "Ask both sides …"}
        </FileButton>
        {crossing.recording === "" && <span className="quiet">Nothing was asked yet.</span>}
      </p>
      {crossing.recording !== "" && (
        <p className="mt-2" aria-live="polite">
          <b>{moment(crossing.recording_at)}</b>: {crossing.recording}.
        </p>
      )}
    </section>
  );
}

function likely(routes: string[], kind: RegExp): string {
  return routes.find((name) => kind.test(name)) ?? "";
}

function Login({ slug, crossing }: Props) {
  const told = useTold();
  const routes = crossing.bands.flatMap((band) => band.routes.map((route) => route.name));
  const [login, setLogin] = useState(crossing.login || likely(routes, /^POST .*(log|sign)-?in/i) || "POST /login");
  const [then, setThen] = useState(crossing.login_then || likely(routes, /^GET [^{]*(account|profile|me|user)s?$/i) || "GET /");
  const [form, setForm] = useState("");
  const check = useMutation({
    mutationFn: () => post<SideLogin[]>(`/applications/${encodeURIComponent(slug)}/crossing/session`, { login, then, form: formOf(form) }),
    onError: told,
  });
  return (
    <form
      aria-label="A log-in on both sides"
      className="mt-4 border-t pt-3 text-[14px] hair"
      onSubmit={(event) => {
        event.preventDefault();
        check.mutate();
      }}
    >
      <h3 className="font-bold">A log-in on both sides</h3>
      <p className="quiet mt-1">Who moves between the sides must not have to log in twice. Use a test account: it is sent to both sides and not kept.</p>
      <div className="mt-2 grid grid-cols-2 gap-3">
        <label className="flex flex-col gap-1">
          Logs in
          <input className="field font-mono text-[13px]" value={login} onChange={(event) => setLogin(event.target.value)} required pattern="[A-Z]+ /\S*" title="A method and a path: POST /login" />
        </label>
        <label className="flex flex-col gap-1">
          Needs it
          <input className="field font-mono text-[13px]" value={then} onChange={(event) => setThen(event.target.value)} required pattern="[A-Z]+ /\S*" title="A method and a path: GET /account" />
        </label>
      </div>
      <label className="mt-2 flex flex-col gap-1">
        Its form, one field a line
        <textarea className="field h-[64px] w-full font-mono text-[13px]" value={form} placeholder={crossing.login ? "as the rules say" : "name = tester\nword = …"} onChange={(event) => setForm(event.target.value)} />
      </label>
      <button type="submit" className="press press-main mt-3" disabled={check.isPending}>
        {check.isPending ? "Asking …" : "Check"}
      </button>
      <ul aria-live="polite" className="mt-2">
        {check.data?.map((each) => (
          <li key={each.side} className={each.holds ? "" : "font-semibold text-[var(--rose-text)]"}>
            {each.holds ? "✓" : "✕"} {each.told[0]?.toUpperCase()}
            {each.told.slice(1)}.
          </li>
        ))}
      </ul>
    </form>
  );
}
