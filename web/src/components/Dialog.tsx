/** A dialog that takes the focus, gives it back, and closes on Escape. */
import { type ReactNode, useEffect, useRef } from "react";

type Props = { title: string; close: () => void; children: ReactNode; wide?: boolean | "most" };

export function Dialog({ title, close, children, wide = false }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const latest = useRef(close);
  useEffect(() => {
    latest.current = close;
  });
  useEffect(() => {
    const before = document.activeElement as HTMLElement | null;
    const first = box.current?.querySelector<HTMLElement>("input, textarea, select, button:not([data-close])");
    (first ?? box.current)?.focus();
    const listen = (event: KeyboardEvent) => {
      if (event.key === "Escape") latest.current();
      if (event.key === "Tab") keepInside(event, box.current);
    };
    document.addEventListener("keydown", listen);
    return () => {
      document.removeEventListener("keydown", listen);
      before?.focus();
    };
  }, []);
  return (
    <div className={`fixed inset-0 z-50 grid place-items-start justify-center bg-black/35 p-6 ${wide === "most" ? "pt-[6vh]" : "pt-[12vh]"}`} onMouseDown={(e) => e.target === e.currentTarget && close()}>
      <div ref={box} role="dialog" aria-modal="true" aria-label={title} tabIndex={-1} className={`dialog w-full p-5 outline-none ${wide === "most" ? "max-w-5xl" : wide ? "max-w-2xl" : "max-w-md"}`}>
        <div className="mb-3 flex items-baseline justify-between gap-4">
          <h2 className="text-lg font-bold">{title}</h2>
          <button type="button" data-close className="press press-quiet" onClick={close}>
            Close <kbd className="key">Esc</kbd>
          </button>
        </div>
        {children}
      </div>
    </div>
  );
}

function keepInside(event: KeyboardEvent, box: HTMLElement | null): void {
  const reachable = [...(box?.querySelectorAll<HTMLElement>("a[href], button:not(:disabled), input, textarea, select") ?? [])];
  const [first, last] = [reachable[0], reachable.at(-1)];
  if (event.shiftKey && document.activeElement === first) {
    event.preventDefault();
    last?.focus();
  } else if (!event.shiftKey && document.activeElement === last) {
    event.preventDefault();
    first?.focus();
  }
}
