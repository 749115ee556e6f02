/** A figure that can be pressed and shows how it was computed. */
import { type ReactNode, useCallback, useId, useRef, useState } from "react";

import { useDismiss } from "../lib/dismiss";

type Props = { figure: ReactNode; label: string; children: ReactNode; className?: string };

export function Explain({ figure, label, children, className = "" }: Props) {
  const [open, setOpen] = useState(false);
  const box = useRef<HTMLSpanElement>(null);
  const id = useId();
  useDismiss(open, box, useCallback(() => setOpen(false), []));
  return (
    <span ref={box} className="relative inline-block">
      <button
        type="button"
        aria-expanded={open}
        aria-controls={id}
        title={label}
        className={`decoration-dotted underline-offset-4 hover:underline ${className}`}
        onClick={(event) => {
          event.preventDefault();
          event.stopPropagation();
          setOpen(!open);
        }}
      >
        {figure}
      </button>
      {open && (
        <span id={id} role="note" className="dialog absolute right-0 z-30 mt-1 block w-80 p-3 text-left text-[13px] font-normal leading-snug">
          {children}
        </span>
      )}
    </span>
  );
}
