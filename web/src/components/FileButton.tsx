/** A button that asks for a file and hands it over; the same file may be chosen again. */
import { type ReactNode, useRef } from "react";

interface Props {
  what: string;
  take: (file: File) => void;
  accept?: string;
  title?: string;
  busy?: boolean;
  children: ReactNode;
}

export function FileButton({ what, take, accept, title, busy, children }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        aria-label={what}
        accept={accept}
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) take(file);
          event.target.value = "";
        }}
      />
      <button type="button" className="press" title={title} disabled={busy} onClick={() => input.current?.click()}>
        {children}
      </button>
    </>
  );
}
