/** Short words at the foot of the page, with an undo where there is one. */
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";

type Toast = { id: number; text: string; undo?: (() => void) | undefined; bad?: boolean | undefined };
type Say = (text: string, options?: { undo?: () => void; bad?: boolean }) => void;

const Context = createContext<Say>(() => undefined);
export const useToast = () => useContext(Context);

const STAYS = 7_000;
const UNDO_STAYS = 20_000; // long enough to see what was done, and to think better of it

export function Toasts({ children }: { children: ReactNode }) {
  const [toasts, setToasts] = useState<Toast[]>([]);
  const drop = useCallback((id: number) => setToasts((all) => all.filter((t) => t.id !== id)), []);
  const say = useCallback<Say>(
    (text, options = {}) => {
      const id = performance.now();
      setToasts((all) => [...all.slice(-2), { id, text, ...options }]);
      setTimeout(() => drop(id), options.undo ? UNDO_STAYS : STAYS);
    },
    [drop],
  );
  const value = useMemo(() => say, [say]);
  return (
    <Context value={value}>
      {children}
      <div className="toasts fixed left-1/2 z-50 flex -translate-x-1/2 flex-col gap-2" role="status" aria-live="polite">
        {toasts.map((toast) => (
          <div key={toast.id} className="dialog rises flex max-w-xl items-center gap-4 px-4 py-2" style={toast.bad ? { borderColor: "var(--rose)" } : undefined}>
            <span>{toast.text}</span>
            {toast.undo && (
              <button
                type="button"
                className="press"
                aria-label={`Undo: ${toast.text}`}
                onClick={() => {
                  toast.undo?.();
                  drop(toast.id);
                }}
              >
                Undo
              </button>
            )}
          </div>
        ))}
      </div>
    </Context>
  );
}
