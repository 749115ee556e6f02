/** What a run says while it goes on, or said. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { call } from "../../api/client";
import type { LogPart } from "../../api/types";

const EVERY = 700;

type Props = { slug: string; name: string; label: string };

export function LiveLog({ slug, name, label }: Props) {
  const [text, setText] = useState("");
  const box = useRef<HTMLPreElement>(null);
  const client = useQueryClient();
  useEffect(() => {
    let start = 0;
    let timer: number | undefined;
    let gone = false;
    const ask = async () => {
      let more = true;
      try {
        const part = await call<LogPart>(`/applications/${encodeURIComponent(slug)}/logs/${name}?start=${start}`);
        if (gone) return;
        more = part.running || part.end > start;
        start = part.end;
        if (part.text) setText((before) => before + part.text);
      } catch {
        // the side has not begun yet: its log is asked for again
      }
      if (more && !gone) timer = window.setTimeout(() => void ask(), EVERY);
      if (!more) void client.invalidateQueries({ queryKey: ["proof", slug] });
    };
    void ask();
    return () => {
      gone = true;
      window.clearTimeout(timer);
    };
  }, [slug, name, client]);
  useEffect(() => {
    if (box.current) box.current.scrollTop = box.current.scrollHeight;
  }, [text]);
  return (
    <pre ref={box} aria-label={label} tabIndex={0} className="sheet h-full min-h-0 overflow-auto rounded-[5px] border p-2 text-[12px] leading-snug whitespace-pre-wrap hair [overflow-wrap:anywhere]">
      {text || "…"}
    </pre>
  );
}
